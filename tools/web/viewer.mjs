// The viewer of a package: its model, pieces, lists and sheets, in one page that needs nothing else.
// Every word out of a package is put in as text, sheets as pictures: nothing of them runs.
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

const $ = (id) => document.getElementById(id);
const STEEL = new THREE.Color("#9FB0BC"), BOLT = new THREE.Color("#66747E"), DIM = new THREE.Color("#DAD8CF");
const PICKED = new THREE.Color("#2C7A70"), FOUND = new THREE.Color("#C38A1A");
const HOW = { added: ["+", "#3D55A0"], changed: ["~", "#C38A1A"], moved: [">", "#8A4678"],
  "marked otherwise": ["#", "#8FA2AF"], gone: ["-", "#C8452C"] };

function el(kind, words, more = {}) {
  const made = document.createElement(kind);
  if (words !== undefined && words !== null) made.textContent = words;
  for (const [name, value] of Object.entries(more)) name === "click" ? made.addEventListener("click", value) : made.setAttribute(name, value);
  return made;
}

function bytes(text) {
  const plain = atob(text), found = new Uint8Array(plain.length);
  for (let k = 0; k < plain.length; k++) found[k] = plain.charCodeAt(k);
  return found;
}
const floats = (text) => new Float32Array(bytes(text).buffer);
const counts = (text) => new Uint32Array(bytes(text).buffer);

async function unpacked() {
  const packed = bytes($("data").textContent.trim());
  const plain = new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"));
  return JSON.parse(await new Response(plain).text());
}

// -- the model ---------------------------------------------------------------------------------------------------
class Model {
  constructor(data, canvas) {
    this.data = data;
    this.canvas = canvas;
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true });
    this.renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
    this.scene = new THREE.Scene();
    this.scene.background = new THREE.Color("#F0EEE6");
    this.scene.add(new THREE.HemisphereLight("#FFFFFF", "#A9B3B6", 3.0));
    this.sun = new THREE.DirectionalLight("#FFFFFF", 1.8);
    this.scene.add(this.sun);
    this.camera = new THREE.PerspectiveCamera(40, 1, 10, 1e7);
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", () => this.draw());
    this.meshes = [];
    this.boxes = data.pieces.map(() => new THREE.Box3());
    this.colours = data.pieces.map(() => STEEL);
    this.fill();
    addEventListener("resize", () => this.fit());
    this.fit();
    this.frame(this.whole());
  }

  fill() {
    const data = this.data, places = floats(data.places), of = counts(data.of), shape = counts(data.shape);
    const by = data.shapes.map(() => []);
    for (let k = 0; k < of.length; k++) by[shape[k]].push(k);
    const geometry = (one) => {
      const indexed = new THREE.BufferGeometry();
      indexed.setAttribute("position", new THREE.BufferAttribute(floats(one.p), 3));
      indexed.setIndex(new THREE.BufferAttribute(counts(one.t), 1));
      return indexed;
    };
    for (let s = 0; s < by.length; s++) {
      if (!by[s].length) continue;
      const one = data.shapes[s];
      // near: as it is; far: without its holes, where that saves much
      for (const [form, when] of one.far ? [[one, "near"], [one.far, "far"]] : [[one, one.bolt ? "near" : ""]]) {
        const indexed = geometry(form), flat = indexed.toNonIndexed();
        flat.computeVertexNormals();
        flat.computeBoundingBox();
        const mesh = new THREE.InstancedMesh(flat, new THREE.MeshLambertMaterial(), by[s].length), matrix = new THREE.Matrix4();
        mesh.userData = { pieces: by[s].map((k) => of[k]), bolt: Boolean(one.bolt), when };
        by[s].forEach((k, n) => {
          const m = places.subarray(12 * k, 12 * k + 12);
          matrix.set(m[0], m[1], m[2], m[9], m[3], m[4], m[5], m[10], m[6], m[7], m[8], m[11], 0, 0, 0, 1);
          mesh.setMatrixAt(n, matrix);
          if (!one.bolt) this.boxes[of[k]].union(flat.boundingBox.clone().applyMatrix4(matrix));
        });
        mesh.frustumCulled = false;
        this.scene.add(mesh);
        this.meshes.push(mesh);
        if (one.bolt) continue;
        mesh.userData.edges = edgesOf(indexed, mesh);
        this.scene.add(mesh.userData.edges);
      }
    }
    this.paint();
  }

  whole() {
    const all = new THREE.Box3();
    for (const box of this.boxes) if (!box.isEmpty()) all.union(box);
    return all;
  }

  // All of a box in view, as near as it goes; `about` more than 1 shows what stands around it.
  frame(box, about = 1) {
    if (box.isEmpty()) return;
    const centre = box.getCenter(new THREE.Vector3()), back = this.camera.position.clone().sub(this.controls.target);
    if (back.length() < 1) back.set(-0.8, -1.2, 0.7);
    back.normalize();
    const right = new THREE.Vector3().crossVectors(this.camera.up, back).normalize(), up = new THREE.Vector3().crossVectors(back, right);
    const half = Math.tan((this.camera.fov * Math.PI) / 360) * 0.92;
    let far = 500;
    for (let k = 0; k < 8; k++) {
      const c = new THREE.Vector3(k & 1 ? box.max.x : box.min.x, k & 2 ? box.max.y : box.min.y, k & 4 ? box.max.z : box.min.z).sub(centre);
      const wide = Math.abs(c.dot(right)) / (half * this.camera.aspect), high = Math.abs(c.dot(up)) / half;
      far = Math.max(far, Math.max(wide, high) + c.dot(back));
    }
    far *= about;
    this.controls.target.copy(centre);
    this.camera.position.copy(centre).addScaledVector(back, far);
    this.camera.near = Math.max(5, far / 2000);
    this.camera.far = far + this.whole().getBoundingSphere(new THREE.Sphere()).radius * 4;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.draw();
  }

  paint() {
    for (const mesh of this.meshes) {
      mesh.userData.pieces.forEach((piece, n) => {
        const own = this.colours[piece];
        mesh.setColorAt(n, mesh.userData.bolt && own === STEEL ? BOLT : own);
      });
      mesh.instanceColor.needsUpdate = true;
    }
    this.draw();
  }

  fit() {
    const box = this.canvas.parentElement.getBoundingClientRect();
    this.renderer.setSize(box.width, box.height, false);
    this.camera.aspect = box.width / Math.max(1, box.height);
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  draw() {
    if (this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      this.sun.position.copy(this.camera.position).sub(this.controls.target).applyAxisAngle(this.camera.up, 0.5);
      this.thin();
      this.renderer.render(this.scene, this.camera);
      this.drawn = (this.drawn ?? 0) + 1;
    });
  }

  // What would be no point wide is not drawn: bolts, holes.
  thin() {
    const far = this.camera.position.distanceTo(this.controls.target);
    const point = (2 * far * Math.tan((this.camera.fov * Math.PI) / 360)) / Math.max(1, this.canvas.clientHeight);
    for (const mesh of this.meshes) {
      const { when, edges, bolt } = mesh.userData, near = point < (bolt ? 25 : 8);
      mesh.visible = !when || (when === "near") === near;
      if (edges) edges.visible = mesh.visible;
    }
  }

  // The piece under a point, or within a few points of it: far steel is thin.
  near(x, y) {
    for (const [dx, dy] of [[0, 0], [3, 0], [-3, 0], [0, 3], [0, -3], [2, 2], [-2, 2], [2, -2], [-2, -2]]) {
      const found = this.at(x + dx, y + dy);
      if (found >= 0) return found;
    }
    return -1;
  }

  at(x, y) {
    const box = this.canvas.getBoundingClientRect(), ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2), this.camera);
    const hit = ray.intersectObjects(this.meshes.filter((one) => one.visible), false)[0];
    return hit ? hit.object.userData.pieces[hit.instanceId] : -1;
  }
}

// Sharp edges of a shape, drawn once for all that have it.
function edgesOf(geometry, mesh) {
  const lines = new THREE.InstancedBufferGeometry(), sharp = new THREE.EdgesGeometry(geometry, 25);
  lines.setAttribute("position", sharp.getAttribute("position"));
  lines.setAttribute("place", mesh.instanceMatrix.clone());
  lines.instanceCount = mesh.count;
  const shown = new THREE.LineSegments(lines, new THREE.ShaderMaterial({
    vertexShader: `attribute mat4 place; void main() { gl_Position = projectionMatrix * modelViewMatrix * place * vec4(position, 1.0); gl_Position.z -= 0.00002 * gl_Position.w; }`,
    fragmentShader: `void main() { gl_FragColor = vec4(0.22, 0.28, 0.32, 0.5); }`,
    transparent: true,
  }));
  shown.frustumCulled = false;
  return shown;
}

// -- the page ----------------------------------------------------------------------------------------------------
class Page {
  constructor(data, changes) {
    this.data = data;
    this.changes = changes;
    this.byId = new Map(data.pieces.map((piece, n) => [piece.id, n]));
    this.how = new Map((changes?.pieces ?? []).map((one) => [one.piece, one]));
    this.picked = -1;
    this.words = "";
    document.title = `${data.number} ${data.job}`.trim();
    $("title").textContent = document.title;
    $("about").textContent = data.about;
    this.model = new Model(data, $("canvas"));
    this.tabs();
    this.keys();
    this.show("pieces");
    this.choose(-1);
    document.body.dataset.ready = "yes";
  }

  tabs() {
    const told = this.changes ? `Changes (${this.changes.pieces.length})` : "Changes";
    const named = [["pieces", `Pieces (${this.data.pieces.length})`], ["sheets", `Sheets (${Object.keys(this.data.sheets).length})`],
      ["lists", `Lists (${this.data.lists.length})`], ["changes", told]];
    for (const [name, words] of named)
      $("tabs").append(el("button", words, { role: "tab", id: `tab-${name}`, click: () => this.show(name) }));
    $("tabs").addEventListener("keydown", (e) => {
      const way = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
      if (!way) return;
      const all = [...$("tabs").children], next = all[(all.indexOf(document.activeElement) + way + all.length) % all.length];
      next.focus();
      next.click();
    });
  }

  show(name) {
    this.tab = name;
    for (const tab of $("tabs").children) tab.setAttribute("aria-selected", String(tab.id === `tab-${name}`));
    $("found").replaceChildren();
    ({ pieces: () => this.showPieces(), sheets: () => this.showSheets(), lists: () => this.showLists(), changes: () => this.showChanges() })[name]();
    this.colour();
  }

  matches(piece) {
    const words = this.words.trim().toLowerCase();
    if (!words) return true;
    if (piece.mark.toLowerCase() === words) return true;
    return [piece.mark, piece.what, piece.lot, ...piece.parts].some((one) => one.toLowerCase().includes(words));
  }

  search(words) {
    this.words = words;
    if (this.tab !== "pieces") this.show("pieces");
    else { $("found").replaceChildren(); this.showPieces(); this.colour(); }
    const exact = this.data.pieces.findIndex((one) => one.mark.toLowerCase() === words.trim().toLowerCase());
    if (exact >= 0) this.choose(exact);
  }

  row(n, second, sign) {
    const piece = this.data.pieces[n];
    const row = el("button", null, { class: "row", role: "option", "data-piece": String(n), "aria-selected": String(n === this.picked) });
    if (sign) row.append(el("b", sign[0], { class: "sign", style: `color:${sign[1]}`, "aria-hidden": "true" }));
    row.append(el("span", piece.mark || "(no mark)", { class: "mark" }), el("span", second, { class: "what" }));
    row.addEventListener("click", () => { this.choose(n); this.model.frame(this.model.boxes[n], 2); });
    return row;
  }

  showPieces() {
    const there = this.data.pieces.map((_, n) => n).filter((n) => this.matches(this.data.pieces[n]));
    if (!there.length) $("found").append(el("p", `No piece is marked or called “${this.words}”. Clear the search to see all.`));
    $("found").append(...there.map((n) => this.row(n, `${this.data.pieces[n].what} · ${this.data.pieces[n].kg}`)));
  }

  showSheets() {
    const names = Object.keys(this.data.sheets);
    if (!names.length) $("found").append(el("p", this.data.noSheets || "This package has no sheets."));
    let kind = "";
    for (const name of names) {
      const one = this.data.sheets[name];
      if (one.kind !== kind) $("found").append(el("h3", (kind = one.kind)));
      $("found").append(el("button", one.title, { class: "row", "data-sheet": name, click: () => this.open(name) }));
    }
  }

  showLists() {
    if (!this.data.lists.length) $("found").append(el("p", "This package has no lists."));
    this.data.lists.forEach((list) => $("found").append(el("button", `${list.title} (${list.rows.length})`, { class: "row", click: () => this.openList(list) })));
  }

  showChanges() {
    if (!this.changes) {
      $("found").append(el("p", "Nothing is known of an earlier package: all of this is new to you. Open the page from the noticeboard, or the next package, to see what changed."));
      return;
    }
    $("found").append(el("p", `${this.changes.pieces.length ? "What is different in" : "Nothing is different in"} ${this.changes.now} against ${this.changes.was}:`));
    for (const one of this.changes.pieces) {
      const n = this.byId.get(one.piece), sign = HOW[one.how] ?? ["?", "#5A6B74"], words = `${one.how}: ${one.words}`;
      if (n !== undefined) $("found").append(this.row(n, words, sign));
      else {
        const row = el("div", null, { class: "row still" });
        row.append(el("b", sign[0], { class: "sign", style: `color:${sign[1]}` }), el("span", one.mark, { class: "mark" }), el("span", words, { class: "what" }));
        $("found").append(row);
      }
    }
  }

  colour() {
    const model = this.model, key = [];
    model.colours = this.data.pieces.map((piece, n) => {
      if (n === this.picked) return PICKED;
      if (this.tab === "changes" && this.changes) {
        const how = this.how.get(piece.id)?.how;
        return how ? new THREE.Color(HOW[how]?.[1] ?? "#5A6B74") : DIM;
      }
      if (this.words.trim() && this.tab === "pieces") return this.matches(piece) ? FOUND : DIM;
      return STEEL;
    });
    if (this.tab === "changes" && this.changes)
      for (const [how, [sign, colour]] of Object.entries(HOW)) {
        const n = this.changes.pieces.filter((one) => one.how === how).length;
        if (n) key.push([`${sign} ${how}: ${n}`, colour]);
      }
    else if (this.words.trim() && this.tab === "pieces") key.push([`found: ${this.data.pieces.filter((p) => this.matches(p)).length}`, "#C38A1A"]);
    $("key").replaceChildren(...key.map(([words, colour]) => {
      const line = el("div");
      line.append(el("i", "", { style: `background:${colour}` }), el("span", words));
      return line;
    }));
    model.paint();
  }

  choose(n) {
    this.picked = n;
    for (const row of document.querySelectorAll("[data-piece]")) {
      const own = row.dataset.piece === String(n);
      row.setAttribute("aria-selected", String(own));
      if (own) row.scrollIntoView({ block: "nearest" });
    }
    const facts = $("facts");
    facts.replaceChildren();
    this.colour();
    if (n < 0) {
      facts.append(el("p", "Pick a piece in the model or in the list to see what it is and to open its sheets."));
      return;
    }
    const piece = this.data.pieces[n];
    facts.append(el("h2", piece.mark || "(no mark)"));
    const told = el("dl"), how = this.how.get(piece.id);
    for (const [name, words] of [["What", piece.what], ["Part of", piece.role], ["Weight", piece.kg], ["Lot", piece.lot], ["Finish", piece.finish],
      ["Revision", piece.revision], ["Since the last", how ? `${how.how}: ${how.words}` : ""]])
      if (words) told.append(el("dt", name), el("dd", words));
    facts.append(told, el("h3", "Sheets"));
    const sheets = piece.sheets.filter((name) => this.data.sheets[name]);
    for (const name of sheets) facts.append(el("button", this.data.sheets[name].title, { class: "row", "data-sheet": name, click: () => this.open(name) }));
    if (!sheets.length) facts.append(el("p", this.data.noSheets || "None in this package."));
    if (piece.parts.length) facts.append(el("h3", "Parts"), el("p", piece.parts.join(", ")));
  }

  // -- what is laid over the model ---------------------------------------------------------------------------------
  open(name) {
    const one = this.data.sheets[name], picture = el("img", null, { alt: one.title, id: "sheet" });
    picture.src = "data:image/svg+xml;charset=utf-8," + encodeURIComponent(one.svg);
    let size = 1, x = 0, y = 0, from = null;
    const place = () => (picture.style.transform = `translate(${x}px, ${y}px) scale(${size})`);
    this.lay(one.title, picture);
    const over = $("over-inside");
    over.onwheel = (e) => {
      e.preventDefault();
      const box = over.getBoundingClientRect(), px = e.clientX - box.left, py = e.clientY - box.top;
      const next = Math.min(40, Math.max(1, size * Math.exp(-e.deltaY * 0.0015)));
      [x, y, size] = next === 1 ? [0, 0, 1] : [px - ((px - x) * next) / size, py - ((py - y) * next) / size, next];
      place();
    };
    over.onpointerdown = (e) => { from = [e.clientX - x, e.clientY - y]; over.setPointerCapture(e.pointerId); };
    over.onpointermove = (e) => { if (from) { [x, y] = [e.clientX - from[0], e.clientY - from[1]]; place(); } };
    over.onpointerup = () => (from = null);
    picture.draggable = false;
  }

  openList(list) {
    const table = el("table"), head = el("tr");
    list.heads.forEach((words, k) => head.append(el("th", words, { class: list.right[k] ? "right" : "" })));
    table.append(head);
    for (const cells of list.rows) {
      const row = el("tr");
      cells.forEach((words, k) => row.append(el("td", words, { class: list.right[k] ? "right" : "" })));
      table.append(row);
    }
    this.lay(list.title, table);
    const over = $("over-inside");
    over.onwheel = over.onpointerdown = over.onpointermove = over.onpointerup = null;
  }

  lay(title, inside) {
    $("over-title").textContent = title;
    $("over-inside").replaceChildren(inside);
    $("over").hidden = false;
    $("close").focus();
  }

  keys() {
    const close = () => ($("over").hidden = true);
    $("close").addEventListener("click", close);
    $("search").addEventListener("input", (e) => this.search(e.target.value));
    let down = null;
    $("canvas").addEventListener("pointerdown", (e) => (down = [e.clientX, e.clientY]));
    $("canvas").addEventListener("click", (e) => {
      if (down && Math.hypot(e.clientX - down[0], e.clientY - down[1]) < 4) this.choose(this.model.near(e.clientX, e.clientY));
    });
    addEventListener("keydown", (e) => {
      if (e.key === "Escape") {
        if (!$("over").hidden) close();
        else if ($("search").value) { $("search").value = ""; this.search(""); }
        else this.choose(-1);
      } else if (e.target === $("search")) {
        if (e.key === "Enter" && this.picked >= 0) this.model.frame(this.model.boxes[this.picked], 2);
      } else if (e.key === "/") {
        e.preventDefault();
        $("search").focus();
      } else if (e.key === "f" || e.key === "F") {
        this.picked < 0 ? this.model.frame(this.model.whole()) : this.model.frame(this.model.boxes[this.picked], 2);
      } else if ((e.key === "ArrowDown" || e.key === "ArrowUp") && document.activeElement?.classList.contains("row")) {
        const next = e.key === "ArrowDown" ? document.activeElement.nextElementSibling : document.activeElement.previousElementSibling;
        if (next?.classList.contains("row")) { next.focus(); e.preventDefault(); }
      }
    });
  }
}

async function start() {
  try {
    const data = await unpacked();
    globalThis.page = new Page(data, JSON.parse($("changes").textContent || "null"));
  } catch (wrong) {
    $("title").textContent = "This page could not be shown";
    $("about").textContent = `${wrong}. It needs a browser of 2023 or later, with WebGL.`;
    document.body.dataset.ready = "no";
  }
}
start();
