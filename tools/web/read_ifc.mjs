// Reads IFC with web-ifc, which is nobody's here, and prints counts by class and the volume of each product as JSON.
// usage: node read_ifc.mjs MODEL...
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";

const require = createRequire(import.meta.url);
const web = require("web-ifc");
const api = new web.IfcAPI();
await api.Init();
const CLASSES = ["IFCELEMENTASSEMBLY", "IFCBEAM", "IFCCOLUMN", "IFCMEMBER", "IFCPLATE", "IFCMECHANICALFASTENER", "IFCFASTENER",
  "IFCOPENINGELEMENT", "IFCDISCRETEACCESSORY", "IFCPROPERTYSET", "IFCRELCONNECTSWITHREALIZINGELEMENTS"];

function volume(vertices, indices, m) {
  const at = (k) => {
    const [x, y, z] = [vertices[6 * k], vertices[6 * k + 1], vertices[6 * k + 2]];
    return [m[0] * x + m[4] * y + m[8] * z + m[12], m[1] * x + m[5] * y + m[9] * z + m[13], m[2] * x + m[6] * y + m[10] * z + m[14]];
  };
  const origin = indices.length ? at(indices[0]) : [0, 0, 0];
  let six = 0;
  for (let k = 0; k < indices.length; k += 3) {
    const [a, b, c] = [0, 1, 2].map((n) => at(indices[k + n]).map((v, i) => v - origin[i]));
    six += a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
  }
  return six / 6;
}

const found = [];
for (const file of process.argv.slice(2)) {
  const model = api.OpenModel(new Uint8Array(readFileSync(file))), counts = {}, volumes = {};
  for (const name of CLASSES) counts[name] = api.GetLineIDsWithType(model, web[name]).size();
  api.StreamAllMeshes(model, (mesh) => {
    let all = 0;
    for (let k = 0; k < mesh.geometries.size(); k++) {
      const placed = mesh.geometries.get(k), own = api.GetGeometry(model, placed.geometryExpressID);
      all += volume(api.GetVertexArray(own.GetVertexData(), own.GetVertexDataSize()),
        api.GetIndexArray(own.GetIndexData(), own.GetIndexDataSize()), placed.flatTransformation);
    }
    const line = api.GetLine(model, mesh.expressID);
    if (line.GlobalId) volumes[line.GlobalId.value] = all;
  });
  found.push({ schema: api.GetModelSchema(model), counts, volumes });
  api.CloseModel(model);
}
console.log(JSON.stringify(found));
process.exit(0);
