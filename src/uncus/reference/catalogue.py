"""The catalogue of bought items that colleagues share: a folder of open files.

    catalogue.json                       what it is, its own id and name
    items/RACK-600/0001-3f2a9b04c1d2.json      one version of an item: its facts
    items/RACK-600/0001-3f2a9b04c1d2.ifc       its shape, where it has a body of its own
    items/RACK-600/0001-3f2a9b04c1d2.png       its picture, where it has one

A version is written once and never changed: its name is its number and the beginning of the SHA-256 of its facts. Two
people who change one version make two that come after it, side by side; nothing of either is lost, and whoever takes
one up next settles it by making one after both. So no lock is needed, and any way of sharing a folder will do.
"""

from __future__ import annotations

import hashlib
import os
import re
import uuid
from collections import defaultdict
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

import msgspec
import numpy as np
from manifold3d import Manifold, OpType

from uncus.catalog.bought import Bought, Version, key_of
from uncus.frame.placement import Placement
from uncus.job.bought import BoughtItem
from uncus.job.errors import JobError
from uncus.job.files import file_name, json_of, read_outside, write_beside
from uncus.reference.item_ifc import item_ifc
from uncus.reference.reading import Tell, read
from uncus.steel.bodies import body_solid, packed, unpacked
from uncus.steel.part import Part
from uncus.steel.solid import solid

FORMAT = "uncus bought items 1"
_VERSION = re.compile(r"(\d{4,6})-([0-9a-f]{12})\.json")
_MOST = 20_000  # items of a catalogue
_JSON, _PICTURE = 200_000, 400_000  # bytes
OUT = ("x", "-x", "y", "-y", "z", "-z")
_DEEP = 2  # folders down from a place that a catalogue is looked for in


class About(msgspec.Struct, frozen=True):
    """What a folder says of itself."""

    id: str
    name: str = ""
    format: str = FORMAT


class Held(NamedTuple):
    """A version of an item as the folder has it: its digest, and where its files are."""

    version: Version
    digest: str
    file: Path

    @property
    def facts(self) -> Bought:
        return self.version.facts


class Entry(NamedTuple):
    """An item: its versions, the oldest first, and those that none comes after: more than one where two people changed
    the same."""

    code: str
    versions: tuple[Held, ...]
    heads: tuple[Held, ...]

    @property
    def newest(self) -> Held:
        return max(self.heads, key=lambda h: (h.version.version, h.version.on, h.digest))


class Catalogue:
    """A folder's items, read when asked for; what cannot be read is told in `faults` and the rest goes on."""

    def __init__(self, folder: Path, about: About) -> None:
        self.folder, self.about = folder, about
        self.faults: list[str] = []

    # -- the folder ----------------------------------------------------------------------------------------------
    @classmethod
    def open(cls, folder: Path) -> Catalogue:
        """Raises JobError."""
        path = folder / "catalogue.json"
        if not path.is_file():
            raise JobError(f"{folder} is no catalogue of bought items; choose its folder, or make one.")
        about = json_of(read_outside(path, _JSON), About, path, "catalogue")
        if about.format != FORMAT or not about.id:
            raise JobError(f"{path} is a catalogue of another form ({about.format[:60]}).")
        return cls(folder, about)

    @classmethod
    def make(cls, folder: Path, name: str = "") -> Catalogue:
        """A new, empty catalogue; one that is there is opened. Raises JobError."""
        if (folder / "catalogue.json").exists():
            return cls.open(folder)
        about = About(str(uuid.uuid4()), name or folder.name)
        try:
            (folder / "items").mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise JobError(f"{folder} cannot be made: {error.strerror or error}.") from None
        write_beside(folder / "catalogue.json", msgspec.json.format(msgspec.json.encode(about), indent=1) + b"\n")
        return cls(folder, about)

    # -- reading -------------------------------------------------------------------------------------------------
    def entries(self) -> list[Entry]:
        """All items by their codes."""
        self.faults = []
        found: dict[str, list[Held]] = defaultdict(list)
        for held in self._held():
            found[key_of(held.facts.code)].append(held)
        return [_entry(found[code]) for code in sorted(found)]

    def entry(self, code: str) -> Entry | None:
        return next((e for e in self.entries() if key_of(e.code) == key_of(code)), None)

    def _held(self) -> Iterator[Held]:
        items = self.folder / "items"
        try:
            folders = sorted(p for p in items.iterdir() if p.is_dir() and not p.is_symlink())[:_MOST]
        except OSError:
            return
        for folder in folders:
            for file in sorted(folder.iterdir()):
                if _VERSION.fullmatch(file.name):
                    held = self._read(file)
                    if held is not None:
                        yield held

    def _read(self, file: Path) -> Held | None:
        try:
            data = read_outside(file, _JSON)
            digest = hashlib.sha256(data).hexdigest()
            if not file.name.endswith(f"-{digest[:12]}.json"):
                raise JobError(f"{file.name} is not what was written: it was changed, or is not all there yet.")
            version = json_of(data, Version, file.name, "bought item")
            if problem := version.facts.problem():
                raise JobError(f"{file.name}: {problem}")
        except JobError as error:
            self.faults.append(str(error))
            return None
        return Held(version, digest, file)

    def item(self, held: Held, tell: Tell = lambda done, of, words: None) -> BoughtItem:
        """A version as a job keeps it, its shape read. Raises JobError."""
        body = picture = b""
        if held.version.shape:
            shape = held.file.with_suffix(".ifc")
            data = read_outside(shape)
            if hashlib.sha256(data).hexdigest() != held.version.shape:
                raise JobError(f"{shape.name} is not the shape that {held.facts.code} was kept with; put it back.")
            body = body_of_ifc(shape, tell)
        if held.version.picture:
            photo = read_outside(held.file.with_suffix(".png"), _PICTURE)
            picture = photo if hashlib.sha256(photo).hexdigest() == held.version.picture else b""
        made = BoughtItem(id=BoughtItem.named(held.facts.code), facts=held.facts, version=held.version.version,
            catalogue=self.about.id, digest=held.digest, body=body, picture=picture)  # fmt: skip
        if problem := made.problem():
            raise JobError(problem)
        return made

    # -- writing -------------------------------------------------------------------------------------------------
    def keep(self, item: BoughtItem, by: str = "", on: str = "", what: str = "", after: tuple[str, ...] = ()) -> Held:
        """A new version of an item, after those versions (digests) it was made from. Nothing that is there is touched;
        one that says the same is not written twice. Raises JobError."""
        if problem := item.facts.problem():
            raise JobError(problem)
        there = self.entry(item.facts.code)
        versions = {h.digest: h for h in there.versions} if there else {}
        before = [versions[d] for d in after if d in versions]
        number = 1 + max((h.version.version for h in before or list(versions.values())), default=0)
        points, triangles = _triangles(item)
        shape = item_ifc(item.facts, points, triangles) if item.body else b""
        same = next((h for h in versions.values() if h.facts == item.facts
            and h.version.body == _digest(item.body) and h.version.picture == _digest(item.picture)), None)  # fmt: skip
        if same is not None and (not there or same in there.heads):
            return same
        version = Version(number, item.facts, "+".join(sorted(h.digest for h in before)), by, on, what, _digest(shape),
            _digest(item.picture), _digest(item.body))  # fmt: skip
        data = msgspec.json.format(msgspec.json.encode(version), indent=1) + b"\n"
        digest = hashlib.sha256(data).hexdigest()
        folder = self.folder / "items" / file_name(key_of(item.facts.code))
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise JobError(f"{folder} cannot be written to: {error.strerror or error}.") from None
        file = folder / f"{number:04d}-{digest[:12]}.json"
        for suffix, extra in ((".ifc", shape), (".png", item.picture)):
            if extra:
                write_beside(file.with_suffix(suffix), extra)
        write_beside(file, data)  # last: a version is there once its facts are
        return Held(version, digest, file)


def _entry(held: list[Held]) -> Entry:
    ordered = tuple(sorted(held, key=lambda h: (h.version.version, h.digest)))
    followed = {d for h in ordered for d in h.version.after.split("+")}
    heads = tuple(h for h in ordered if h.digest not in followed) or ordered[-1:]
    return Entry(ordered[-1].facts.code, ordered, heads)


def _digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest() if data else ""


def _triangles(item: BoughtItem):  # type: ignore[no-untyped-def]
    return unpacked(item.body) if item.body else (np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64))


# -- where it is ------------------------------------------------------------------------------------------------------
def find(folder: Path, id: str, near: tuple[Path, ...] = ()) -> Catalogue | None:
    """A catalogue at its place or, by its id, where its folder has been moved to: beside where it was, above, or near
    other places; None where it is nowhere there."""
    try:
        found = Catalogue.open(folder)
        if not id or found.about.id == id:
            return found
    except JobError:
        pass
    if not id:
        return None
    parents = [p for p in folder.absolute().parents if p.is_dir()][:2]
    for place in dict.fromkeys((*parents, *near)):
        for one in _folders(place, _DEEP):
            try:
                found = Catalogue.open(one)
            except JobError:
                continue
            if found.about.id == id:
                return found
    return None


def _folders(place: Path, deep: int) -> Iterator[Path]:
    yield place
    if deep <= 0:
        return
    try:
        below = [e.path for e in os.scandir(place) if e.is_dir(follow_symlinks=False) and not e.name.startswith(".")]
    except OSError:
        return
    for path in sorted(below)[:200]:
        yield from _folders(Path(path), deep - 1)


# -- what is newer ----------------------------------------------------------------------------------------------------
class Newer(NamedTuple):
    """An item of a job of which the catalogue has another version than the job's copy, and what is other in it."""

    item: BoughtItem
    held: Held
    words: tuple[str, ...]
    both: bool = False  # two versions stand side by side


def newer(items: list[BoughtItem], catalogue: Catalogue) -> list[Newer]:
    """What the catalogue has that a job has not."""
    found = []
    entries = {key_of(e.code): e for e in catalogue.entries()}
    for item in items:
        entry = entries.get(key_of(item.code)) if item.catalogue == catalogue.about.id else None
        if entry is not None and item.digest not in {h.digest for h in entry.heads}:
            head = entry.newest
            found.append(
                Newer(item, head, tuple(what_changed(item.facts, head.facts, entry, item)), len(entry.heads) > 1)
            )
    return found


def what_changed(old: Bought, new: Bought, entry: Entry | None = None, item: BoughtItem | None = None) -> list[str]:
    """What is other in a version, in words."""
    words = []
    for name in Bought.__struct_fields__:
        a, b = getattr(old, name), getattr(new, name)
        if a != b:
            plain = not isinstance(a, tuple)
            said = {"words": "description", "kg": "weight in kg", "wide": "width in mm", "foot": "foot in mm"}.get(
                name, name
            )
            words.append(f"{said}: {_shown(a)} is now {_shown(b)}" if plain else f"{said} changed")
    if entry is not None and item is not None:
        was = next((h for h in entry.versions if h.digest == item.digest), None)
        if was is not None and was.version.body != entry.newest.version.body:
            words.append("its shape is another")
    return words or ["nothing but who made it"]


def _shown(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value) or "none"


# -- shapes -----------------------------------------------------------------------------------------------------------
def body_of_ifc(path: Path, tell: Tell = lambda done, of, words: None, only: str = "") -> bytes:
    """The body of all that an IFC file shows, or of one product by its GlobalId, as an item's body. Raises JobError."""
    from platformdirs import user_cache_path

    model = read(path, user_cache_path("uncus") / "models", tell).model
    points, triangles, count = [], [], 0
    for n, product in model.each():
        shape = model.shapes[int(model.shape[n])]
        if (only and product.guid != only) or not len(shape.triangles):
            continue
        points.append(model.points_of(n))
        triangles.append(shape.triangles.astype(np.int64) + count)
        count += len(shape.points)
    if not points:
        raise JobError(f"{path.name} shows nothing that an item could be made of.")
    return _sound(packed(np.concatenate(points), np.concatenate(triangles)), path.name)


def _sound(body: bytes, name: str) -> bytes:
    """A body that can be shown. Raises JobError."""
    try:
        body_solid(body)
    except ValueError as error:
        raise JobError(f"{name} makes no item: {error}, or it is too fine; have a plainer shape saved.") from None
    return body


def body_of_parts(parts: Sequence[tuple[Part, Placement]]) -> bytes:
    """The body of parts in place, in the frame of the first: one thing to the buyer, whatever it is made of."""
    home = parts[0][1].inverse
    places = [home @ place for _, place in parts]
    solids = [solid(part).transform(np.column_stack([place.axes, place.origin]))
        for (part, _), place in zip(parts, places, strict=True)]  # fmt: skip
    whole = Manifold.batch_boolean(solids, OpType.Add).to_mesh64()
    return packed(np.asarray(whole.vert_properties)[:, :3], whole.tri_verts)


def turned_out(body: bytes, out: str) -> bytes:
    """A body of other axes turned so that one of OUT points out of what it is fixed to, z staying up where it can."""
    if out not in OUT:
        raise JobError(f"“{out}” is no direction out; give one of {', '.join(OUT)}.")
    axis = np.zeros(3)
    axis["xyz".index(out[-1])] = -1.0 if out.startswith("-") else 1.0
    up = np.array((0.0, 0.0, 1.0)) if out[-1] != "z" else np.array((1.0, 0.0, 0.0))
    axes = np.column_stack([axis, np.cross(up, axis), up])
    points, triangles = unpacked(body)
    return packed(points @ axes, triangles)
