"""Whether an IFC file that we wrote is valid by its schema and holds every piece that goes."""

from __future__ import annotations

from collections.abc import Callable, Mapping

_MOST = 50  # faults that are told
_WIDE = 160  # characters of one


def ifc_faults(text: str, pieces: Mapping[str, str], step: Callable[[str], None] = lambda words: None) -> list[str]:
    """What is wrong with a file's text, in sentences: entities that are not as its schema says (types, what must be
    given, how many; ISO 10303-11), and of `pieces` (words by GlobalId) those that are not in it, once and placed. The
    schema's own rules between entities are not asked: they take forty times as long, and the tests ask them."""
    import ifcopenshell
    import ifcopenshell.validate

    step("opening the IFC model")
    try:
        model = ifcopenshell.file.from_string(text)
    except Exception as error:  # the library raises whatever it meets
        return [f"The IFC model cannot be opened again ({str(error)[:_WIDE] or type(error).__name__})."]
    found = []
    for id, words in pieces.items():
        try:
            product = model.by_guid(id)
        except RuntimeError:
            found.append(f"{words} is not in the IFC model.")
            continue
        if getattr(product, "ObjectPlacement", None) is None:
            found.append(f"{words} has no place in the IFC model.")
    step("the IFC model by its schema")
    log = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(model, log)
    for one in log.statements:
        of = one.get("instance")
        name = str(one.get("attribute") or "").rpartition(".")[2]
        where = f"#{of.id()} {of.is_a()} {name}: " if isinstance(of, ifcopenshell.entity_instance) else ""
        found.append(f"{where}{' '.join(str(one['message']).split())[:_WIDE]}")
    return found[:_MOST]
