"""What a receiver asks of an IFC model, as his IDS file says it (buildingSMART's Information Delivery Specification,
1.0), and what of it a model does not keep.

The file comes from outside: it is looked at before it is kept, and held against a model by a process of its own, since
a pattern in it may never come to an end.
"""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from uncus.job.errors import JobError
from uncus.reference.limited import surroundings, within
from uncus.words import one_line

_LARGEST = 5_000_000  # bytes of such a file
_MOST = 40  # entities that are told of each requirement
_SECONDS, _EACH_MB = 120.0, 12.0  # that a model may take, and more for each MB of it
_MEGABYTES, _MORE = 2000, 40  # memory: at least, and for each MB of the model
_ELSEWHERE = re.compile(r"""\s[\w.-]+:(?:noNamespaceS|s)chemaLocation\s*=\s*(?:"[^"]*"|'[^']*')""")  # never looked up

_RESTRICTION = re.compile(r"\{'(\w+)': \[?'?(.*?)'?\]?\}(?= |$|\.|:)")


class Unmet(msgspec.Struct, frozen=True):
    """Something asked for that is not so: of what and by which specification, in words, and its GlobalId (or "")."""

    asked: str
    words: str
    guid: str = ""
    more: int = 0  # others of which it is not so either

    @property
    def sentence(self) -> str:
        more = f" (and {self.more} more)" if self.more else ""
        return f"{self.asked}: {self.words}{more}"


def asks_of(data: bytes, name: str) -> str:
    """The text of an IDS file. Raises JobError where it is none that is valid by its schema."""
    if len(data) > _LARGEST:
        raise JobError(f"{name} is larger than {_LARGEST // 1_000_000} MB, which no IDS file is.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise JobError(f"{name} is no text in UTF-8, as an IDS file is.") from None
    try:
        _read(text)
    except Exception as error:  # the libraries raise whatever they meet
        why = one_line(str(getattr(error, "reason", "") or error))[:160]
        raise JobError(f"{name} is no IDS file that can be read: {why.rstrip('.')}.") from None
    return text


def _read(text: str) -> Any:
    """The specifications; raises whatever is wrong with them."""
    import defusedxml.ElementTree
    import ifctester.ids

    plain = _ELSEWHERE.sub("", text).strip()
    defusedxml.ElementTree.fromstring(plain)  # no entities, nothing from elsewhere
    head = plain.partition("?>")[2].strip() if plain.startswith("<?xml") else plain
    try:
        found = ifctester.ids.from_string(head)  # which is held against its schema as it is read
    except ifctester.ids.IdsXmlValidationError as error:
        raise ValueError(getattr(error.xml_error, "reason", None) or str(error.xml_error)) from None
    for specification in found.specifications:
        for facet in (*specification.applicability, *specification.requirements):
            for value in vars(facet).values():
                for pattern in _patterns(value):
                    re.compile(pattern)
    return found


def _patterns(value: object) -> list[str]:
    from elementpath.regex import translate_pattern

    options = getattr(value, "options", None)
    said = options.get("pattern", []) if isinstance(options, dict) else []
    return [translate_pattern(one) for one in ([said] if isinstance(said, str) else said)]


def ids_faults(
    model: str, asks: str, step: Callable[[str], None] = lambda words: None, stopped: Callable[[], bool] = lambda: False
) -> list[Unmet]:
    """What of `asks` (an IDS file's text) a model (IFC text) does not keep. Raises JobError where it cannot be told."""
    step("the IFC model by what its receiver asks")
    megabytes = len(model) / 1e6
    with tempfile.TemporaryDirectory(prefix="uncus-") as place:
        given, wanted, out = (Path(place) / name for name in ("model.ifc", "asks.ids", "found.json"))
        given.write_text(model, encoding="ascii")
        wanted.write_text(asks, encoding="utf-8")
        command = [sys.executable, "-m", "uncus.deliver.ids_proof", str(given), str(wanted), str(out),
            str(int(_MEGABYTES + _MORE * megabytes))]  # fmt: skip
        _wait_for(command, _SECONDS + _EACH_MB * megabytes, stopped)
        try:
            return msgspec.json.decode(out.read_bytes(), type=list[Unmet])
        except (OSError, msgspec.MsgspecError):
            raise JobError("What the receiver asks (IDS) could not be held against the model.") from None


def _wait_for(command: list[str], seconds: float, stopped: Callable[[], bool]) -> None:
    process = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        env=surroundings())  # fmt: skip
    until = time.monotonic() + seconds
    try:
        while process.poll() is None:
            if stopped():
                raise JobError("Stopped; nothing was written.")
            if time.monotonic() > until:
                raise JobError(f"What the receiver asks (IDS) took longer than {seconds:.0f} s and was given up; one "
                    "of its patterns may have no end.")  # fmt: skip
            time.sleep(0.05)
    finally:
        if process.poll() is None:
            process.kill()
        process.wait()


# -- in the process of its own ------------------------------------------------------------------------------------
def unmet(model: Any, asks: Any) -> list[Unmet]:
    """What of specifications an opened model does not keep."""
    asks.validate(model)
    found = []
    for one in asks.specifications:
        name = one_line(str(one.name))[:100]
        if not one.is_ifc_version:
            found.append(Unmet(name, f"is asked of {' or '.join(one.ifcVersion)}, and the model is {model.schema}"))
            continue
        applies = one.applicable_entities
        if one.maxOccurs == 0 and applies:
            found += _told(name, [(e, "there must be none of these") for e in applies])
        elif one.minOccurs != 0 and not applies:
            found.append(Unmet(name, "there is nothing of what it is asked of"))
        for facet in one.requirements:
            said = _plain(facet.to_string("requirement", one, facet))
            found += _told(name, [(f["element"], f"{said}: {_plain(f['reason'])}") for f in facet.failures])
    return found


def _plain(words: object) -> str:
    """What the library says, a restriction as words."""
    plain = _RESTRICTION.sub(lambda m: f"{m[1]} {m[2]}".replace("', '", " or "), one_line(str(words)))
    return plain[:200]


def _told(name: str, against: list[tuple[Any, str]]) -> list[Unmet]:
    told = [Unmet(f"{getattr(element, 'Name', None) or element.id()} ({element.is_a()}), {name}", words,
        getattr(element, "GlobalId", None) or "") for element, words in against[:_MOST]]  # fmt: skip
    if told and len(against) > _MOST:
        told[-1] = msgspec.structs.replace(told[-1], more=len(against) - _MOST)
    return told


def _main() -> int:
    import os

    import ifcopenshell

    model, asks, out, megabytes = sys.argv[1:5]
    within(int(megabytes))
    found = unmet(ifcopenshell.open(model), _read(Path(asks).read_text(encoding="utf-8")))
    part = Path(f"{out}.part")
    part.write_bytes(msgspec.json.encode(found))
    os.replace(part, out)
    return 0


if __name__ == "__main__":
    sys.exit(_main())
