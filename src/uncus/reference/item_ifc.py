"""The shape of a bought item as an IFC4 file: one accessory of triangles, so that any program shows it."""

from __future__ import annotations

from collections.abc import Iterable

from numpy.typing import NDArray

from uncus.catalog.bought import Bought
from uncus.reference.step import StepFile, guid, real, reals, refs, some, text

_STAMP = "1970-01-01T00:00:00"  # the same shape gives the same bytes, whenever it is written


def item_ifc(facts: Bought, points: NDArray, triangles: NDArray) -> bytes:  # type: ignore[type-arg]
    """The file's bytes. Points in mm: x out of what the item is fixed to, y across, z up."""
    file = StepFile()
    put, once = file.put, file.once
    origin = once("IFCCARTESIANPOINT((0.,0.,0.))")
    axes = once(f"IFCAXIS2PLACEMENT3D({origin},$,$)")
    units = [put("IFCSIUNIT(*,.LENGTHUNIT.,.MILLI.,.METRE.)"), put("IFCSIUNIT(*,.PLANEANGLEUNIT.,$,.RADIAN.)")]
    world = put(f"IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-05,{axes},$)")
    body = put(f"IFCGEOMETRICREPRESENTATIONSUBCONTEXT('Body','Model',*,*,*,*,{world},$,.MODEL_VIEW.,$)")
    about = f"item/{facts.code}"

    def root(kind: str, key: str, rest: str) -> str:
        return put(f"{kind}('{guid(f'{about}/{key}')}',$,{rest})")

    assigned = put(f"IFCUNITASSIGNMENT({refs(units)})")
    project = root("IFCPROJECT", "project", f"{text(facts.code)},$,$,$,$,({world}),{assigned}")
    place = put(f"IFCLOCALPLACEMENT($,{axes})")
    building = root("IFCBUILDING", "building", f"'Item',$,$,{place},$,$,.ELEMENT.,$,$,$")
    root("IFCRELAGGREGATES", "in project", f"$,$,{project},({building})")
    listed = put(f"IFCCARTESIANPOINTLIST3D(({_rows(reals(p, 4) for p in points.tolist())}))")
    faces = _rows(f"({a},{b},{c})" for a, b, c in (triangles + 1).tolist())
    shape = put(f"IFCTRIANGULATEDFACESET({listed},$,.T.,({faces}),$)")
    shown = put(f"IFCSHAPEREPRESENTATION({body},'Body','Tessellation',({shape}))")
    whole = put(f"IFCPRODUCTDEFINITIONSHAPE($,$,({shown}))")
    own = put(f"IFCLOCALPLACEMENT({place},{axes})")
    code, words, maker = text(facts.code), some(facts.words), text(facts.maker or "-")
    item = root("IFCDISCRETEACCESSORY", "item", f"{code},{words},{words},{own},{whole},{code},.NOTDEFINED.")
    root("IFCRELCONTAINEDINSPATIALSTRUCTURE", "inside", f"$,$,({item}),{building}")
    made_by = (("ModelReference", code), ("Manufacturer", maker))
    values = [once(f"IFCPROPERTYSINGLEVALUE('{n}',$,IFCLABEL({v}),$)") for n, v in made_by]
    known = root("IFCPROPERTYSET", "maker", f"'Pset_ManufacturerTypeInformation',$,{refs(values)}")
    root("IFCRELDEFINESBYPROPERTIES", "made by", f"$,$,({item}),{known}")
    weight = put(f"IFCQUANTITYWEIGHT('GrossWeight',$,$,{real(facts.kg)},$)")
    sizes = root("IFCELEMENTQUANTITY", "weight", f"'Qto_Weight',$,$,({weight})")
    root("IFCRELDEFINESBYPROPERTIES", "weighs", f"$,$,({item}),{sizes}")
    return file.text("IFC4", f"{facts.code}.ifc", _STAMP, "ViewDefinition [ReferenceView_V1.2]").encode()


def _rows(parts: Iterable[str]) -> str:
    return ",".join(parts)
