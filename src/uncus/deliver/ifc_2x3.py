"""IFC 2x3 (ISO/PAS 16739:2005, TC1) of what was written as IFC4: the same entities by the same numbers, each as the
older schema has it; what that asks for besides (who made it, faces of a body) comes behind them.

Left out of it for want of a place there: the profile sets of materials, whose material is said by itself; the kinds of
products, which their types and classes say.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import NamedTuple

from uncus.reference.step import StepFile, refs


def _names(said: str) -> frozenset[str]:
    return frozenset(said.split())


_ROOTED = _names(
    "IFCPROJECT IFCSITE IFCBUILDING IFCBUILDINGSTOREY IFCBEAM IFCCOLUMN IFCMEMBER IFCPLATE IFCDISCRETEACCESSORY "
    "IFCELEMENTASSEMBLY IFCOPENINGELEMENT IFCFASTENER IFCMECHANICALFASTENER IFCGRID IFCBEAMTYPE IFCCOLUMNTYPE "
    "IFCMEMBERTYPE IFCPLATETYPE IFCDISCRETEACCESSORYTYPE IFCMECHANICALFASTENERTYPE IFCPROPERTYSET IFCELEMENTQUANTITY "
    "IFCRELAGGREGATES IFCRELVOIDSELEMENT IFCRELDEFINESBYTYPE IFCRELDEFINESBYPROPERTIES IFCRELASSOCIATESMATERIAL "
    "IFCRELCONNECTSWITHREALIZINGELEMENTS IFCRELCONTAINEDINSPATIALSTRUCTURE"
)
_PRODUCTS = _names(
    "IFCBEAM IFCCOLUMN IFCMEMBER IFCPLATE IFCDISCRETEACCESSORY IFCELEMENTASSEMBLY IFCOPENINGELEMENT IFCFASTENER "
    "IFCMECHANICALFASTENER"
)
_MARKS = re.compile(r"'[^']*'|[(),]")  # a quote within words is two: two words side by side
_PLACE, _SHAPE = 5, 6  # among a product's attributes
_OWNER_AT = len("('") + 22 + len("',")  # of the owner's place behind a GlobalId


class _Old(NamedTuple):
    """What is being written: all lines as they were, those that come behind, and who owns it."""

    lines: list[str]
    out: StepFile
    taken: set[str]  # places and shapes that a product has


Rewrite = Callable[[_Old, str], str]


def in_2x3(file: StepFile) -> StepFile:
    """A file's entities as IFC 2x3 has them; those that it has no place for are taken out."""
    lines = file.lines()
    out = StepFile(lines)
    old = _Old(lines, out, set())
    owner = _owner(out)
    for number, line in enumerate(lines, 1):
        name = line.partition("(")[0]
        way = _WAYS.get(name)
        if way is not None:
            line = way(old, line)
        elif name not in _ROOTED:
            continue
        if name in _PRODUCTS:
            line = _own(old, line)
        if name in _ROOTED:
            at = len(name) + _OWNER_AT
            line = f"{line[:at]}{owner}{line[at + 1 :]}"
        out.replace(number, line)
    return out


def _owner(out: StepFile) -> str:
    """Who made it, as the older schema has every entity say; the time is its package's (`deliver.stamps`)."""
    person = out.put("IFCPERSON($,$,'not named',$,$,$,$,$)")
    office = out.put("IFCORGANIZATION($,'not named',$,$,$)")
    maker = out.put("IFCORGANIZATION($,'Uncus',$,$,$)")
    who = out.put(f"IFCPERSONANDORGANIZATION({person},{office},$)")
    program = out.put(f"IFCAPPLICATION({maker},'1','Uncus','Uncus')")
    return out.put(f"IFCOWNERHISTORY({who},{program},$,.NOCHANGE.,$,$,$,0)")


def split(line: str) -> list[str]:
    """An entity's attributes as they are written."""
    found, depth, start = [], 0, line.index("(") + 1
    for mark in _MARKS.finditer(line, start, len(line) - 1):
        match mark[0]:
            case "(":
                depth += 1
            case ")":
                depth -= 1
            case "," if not depth:
                found.append(line[start : mark.start()])
                start = mark.end()
    return [*found, line[start:-1]]


def _entity(old: _Old, reference: str) -> str:
    return old.lines[int(reference[1:]) - 1]


def _own(old: _Old, line: str) -> str:
    """A product with a place and a shape of its own, as no two may share them there."""
    attributes = split(line)
    for at in (_PLACE, _SHAPE):
        reference = attributes[at]
        if reference != "$" and reference in old.taken:
            attributes[at] = old.out.put(_again(old, _entity(old, reference)))
        old.taken.add(reference)
    return f"{line.partition('(')[0]}({','.join(attributes)})"


def _again(old: _Old, entity: str) -> str:
    """A place or a shape once more; of a shape its one representation too."""
    if not entity.startswith("IFCPRODUCTDEFINITIONSHAPE("):
        return entity
    shown = old.out.put(_shown(old, _entity(old, split(entity)[2][1:-1])))
    return f"IFCPRODUCTDEFINITIONSHAPE($,$,({shown}))"


def _less(n: int) -> Rewrite:
    """Without the last attributes, which are no words."""

    def way(old: _Old, line: str) -> str:
        for _ in range(n):
            line = line[: line.rindex(",")] + ")"
        return line

    return way


def _profile(more: int) -> Rewrite:
    """A profile with attributes more or less behind."""

    def way(old: _Old, line: str) -> str:
        sizes = split(line)
        sizes = sizes[:more] if more < 0 else [*sizes, *["$"] * more]
        return f"{line.partition('(')[0]}({','.join(sizes)})"

    return way


def _gone(old: _Old, line: str) -> str:
    return ""


def _material(old: _Old, line: str) -> str:
    return f"IFCMATERIAL({split(line)[0]})"


def _strength(old: _Old, line: str) -> str:
    _, _, listed, material = split(line)
    told = {}
    for reference in listed[1:-1].split(","):
        name, _, value, _ = split(_entity(old, reference))
        told[name] = value.partition("(")[2].rstrip(")")
    of = (told.get("'YieldStress'", "$"), told.get("'UltimateStress'", "$"))
    return f"IFCMECHANICALSTEELMATERIALPROPERTIES({material},$,$,$,$,$,{of[0]},{of[1]},$,$,$,$,$)"


def _made_of(old: _Old, line: str) -> str:
    """The association of a material itself, where it was one of its profiles."""
    *rest, material = split(line)
    while not (entity := _entity(old, material)).startswith("IFCMATERIAL("):
        at = 2 if entity.startswith(("IFCMATERIALPROFILE(", "IFCMATERIALPROFILESET(")) else 0
        material = split(entity)[at].strip("()")
    return f"IFCRELASSOCIATESMATERIAL({','.join((*rest, material))})"


def _brep(old: _Old, line: str) -> str:
    """A faceted body by its faces."""
    points, _, _, faces, _ = split(line)
    put = old.out.put
    at = [put(f"IFCCARTESIANPOINT({xyz})") for xyz in _tuples(split(_entity(old, points))[0])]
    shell = []
    for face in _tuples(faces):
        loop = put(f"IFCPOLYLOOP({refs(at[int(n) - 1] for n in face[1:-1].split(','))})")
        shell.append(put(f"IFCFACE(({put(f'IFCFACEOUTERBOUND({loop},.T.)')}))"))
    return f"IFCFACETEDBREP({put(f'IFCCLOSEDSHELL({refs(shell)})')})"


def _tuples(listed: str) -> Iterator[str]:
    return (f"({inner})" for inner in listed[2:-2].split("),("))


def _shown(old: _Old, line: str) -> str:
    """A representation by the older names of its kind; a curve alone is a set of curves."""
    context, name, kind, items = split(line)
    if kind == "'Tessellation'":
        kind = "'Brep'"
    elif kind == "'Curve3D'":
        kind, items = "'GeometricCurveSet'", f"({old.out.put(f'IFCGEOMETRICCURVESET({items})')})"
    else:
        return line
    return f"IFCSHAPEREPRESENTATION({context},{name},{kind},{items})"


_WAYS: dict[str, Rewrite] = {
    **dict.fromkeys(("IFCBEAM", "IFCCOLUMN", "IFCMEMBER", "IFCPLATE", "IFCDISCRETEACCESSORY", "IFCOPENINGELEMENT",
        "IFCFASTENER", "IFCMECHANICALFASTENER", "IFCGRID", "IFCDISCRETEACCESSORYTYPE", "IFCQUANTITYLENGTH",
        "IFCQUANTITYAREA", "IFCQUANTITYVOLUME", "IFCQUANTITYWEIGHT"), _less(1)),
    "IFCMECHANICALFASTENERTYPE": _less(3),
    "IFCISHAPEPROFILEDEF": _profile(-2),
    "IFCUSHAPEPROFILEDEF": _profile(1),
    "IFCLSHAPEPROFILEDEF": _profile(2),
    "IFCTSHAPEPROFILEDEF": _profile(1),
    "IFCMATERIAL": _material,
    "IFCMATERIALPROPERTIES": _strength,
    **dict.fromkeys(("IFCMATERIALPROFILE", "IFCMATERIALPROFILESET", "IFCMATERIALPROFILESETUSAGE",
        "IFCCARTESIANPOINTLIST3D"), _gone),
    "IFCRELASSOCIATESMATERIAL": _made_of,
    "IFCTRIANGULATEDFACESET": _brep,
    "IFCSHAPEREPRESENTATION": _shown,
}  # fmt: skip
