"""BCF 3.0 and 2.1 (buildingSMART): topics as a file that other programs read, and theirs read here.

The XML is `bcf-client`'s, of the standard's schemas. What comes in is hostile until parsed: how many entries a file
has and how large they are is limited, and nothing is parsed that declares entities or a document type.
"""

from __future__ import annotations

import io
import math
import uuid
import zipfile
from collections.abc import Callable, Iterable, Iterator
from functools import cache
from importlib import import_module
from pathlib import Path, PurePosixPath
from types import ModuleType
from typing import Any, TypeVar
from xml.etree.ElementTree import ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from uncus.deliver.topics import Sent
from uncus.job.errors import JobError
from uncus.job.files import SPOILT_ZIP, read_outside
from uncus.job.records import Point, Project, Remark, Topic, Viewed, derived_id

VERSIONS = ("3.0", "2.1")
_MOST_ENTRIES = 20_000
_MOST_BYTES = 20_000_000  # of one entry that is read
_MOST_IN_ALL = 200_000_000
_MOST_SAID = 10_000  # characters of a title, text or remark
_M = 1000.0  # mm a metre, in which BCF reckons
_DATE = (1980, 1, 1, 0, 0, 0)  # of the entries of a ZIP: the file is the same whenever it is written
T = TypeVar("T")


# -- out ------------------------------------------------------------------------------------------------------
def bcf_bytes(sent: Iterable[Sent], project: Project, version: str = VERSIONS[0]) -> bytes:
    """Topics of a project as a BCF file. Raises JobError for a version that is not written."""
    if version not in VERSIONS:
        raise JobError(f"BCF {version[:20]} is not written; take {' or '.join(VERSIONS)}.")
    models = _models(version)
    out = io.BytesIO()
    kinds, states, people = {"Clash", "Issue", "Remark"}, {"Open", "Closed"}, set[str]()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:

        def write(name: str, data: bytes | str) -> None:
            file.writestr(zipfile.ZipInfo(name, _DATE), data, zipfile.ZIP_DEFLATED)

        write("bcf.version", _xml(models.Version(version_id=version)))
        for one in sent:
            topic = one.topic
            kinds.add(topic.kind or "Issue")
            states.add(topic.status or "Open")
            people |= {topic.by or _NOBODY, *(r.by or _NOBODY for r in topic.remarks)}
            view = derived_id("view", topic.guid)
            write(f"{topic.guid}/markup.bcf", _xml(_markup(models, one, view)))
            if topic.view is not None:
                write(f"{topic.guid}/{view}.bcfv", _xml(_view(models, one, view)))
            if one.picture:
                write(f"{topic.guid}/{view}.png", one.picture)
        named = models.Project(name=project.name, project_id=derived_id("project", project.name, project.number))
        if version == "3.0":
            write("project.bcfp", _xml(models.ProjectInfo(project=named)))
            write("extensions.xml", _xml(_extensions(models, sorted(kinds), sorted(states), sorted(people))))
        else:
            write("project.bcfp", _xml(models.ProjectExtension(project=named, extension_schema="")))
    return out.getvalue()


_NOBODY = "unnamed"  # an author must be said


def _markup(models: ModuleType, sent: Sent, view: str) -> Any:
    topic = sent.topic
    on = _date(topic.on)
    remarks = [
        models.Comment(date=_date(r.on), author=r.by or _NOBODY, comment=r.text, guid=r.id) for r in topic.remarks
    ]
    views = []
    if topic.view is not None:
        picture = f"{view}.png" if sent.picture else None
        views = [models.ViewPoint(viewpoint=f"{view}.bcfv", snapshot=picture, guid=view)]
    facts = {
        "guid": topic.guid, "title": topic.title, "description": topic.text or None, "creation_date": on,
        "creation_author": topic.by or _NOBODY, "topic_type": topic.kind or "Issue",
        "topic_status": topic.status or "Open",
    }  # fmt: skip
    if _is_3(models):
        comments = models.TopicComments(comment=remarks) if remarks else None
        viewpoints = models.TopicViewpoints(view_point=views) if views else None
        return models.Markup(topic=models.Topic(**facts, comments=comments, viewpoints=viewpoints))
    return models.Markup(topic=models.Topic(**facts), comment=remarks, viewpoints=views)


def _view(models: ModuleType, sent: Sent, guid: str) -> Any:
    view = sent.topic.view
    assert view is not None
    camera = {
        "camera_view_point": _at(models.Point, view.eye, _M),
        "camera_direction": _at(models.Direction, view.way),
        "camera_up_vector": _at(models.Direction, view.up),
    } | ({"aspect_ratio": 4 / 3} if _is_3(models) else {})
    flat = models.OrthogonalCamera(**camera, view_to_world_scale=view.height / _M) if view.height else None
    angle = min(max(view.angle, 45.0), 60.0)  # what BCF 2.1 allows
    deep = None if view.height else models.PerspectiveCamera(**camera, field_of_view=angle)
    cuts = [models.ClippingPlane(location=_at(models.Point, at, _M), direction=_at(models.Direction, way))
        for at, way in view.cuts]  # fmt: skip
    picked = [models.Component(ifc_guid=id) for id in view.pieces]
    painted = [_painted(models, colour, ids) for colour, ids in sent.coloured]
    return models.VisualizationInfo(
        guid=guid, orthogonal_camera=flat, perspective_camera=deep,
        clipping_planes=models.VisualizationInfoClippingPlanes(clipping_plane=cuts) if cuts else None,
        components=models.Components(
            selection=models.ComponentSelection(component=picked) if picked else None,
            visibility=models.ComponentVisibility(default_visibility=True),
            coloring=models.ComponentColoring(color=painted) if painted else None,
        ),
    )  # fmt: skip


def _painted(models: ModuleType, colour: str, ids: Iterable[str]) -> Any:
    some = [models.Component(ifc_guid=id) for id in ids]
    if _is_3(models):
        own = models.ComponentColoringColorComponents(component=some)
        return models.ComponentColoringColor(color=colour, components=own)
    return models.ComponentColoringColor(color=colour, component=some)


def _at(kind: Any, at: Point, unit: float = 1.0) -> Any:
    x, y, z = (round(v / unit, 9) for v in at)
    return kind(x=x, y=y, z=z)


def _extensions(models: ModuleType, kinds: list[str], states: list[str], people: list[str]) -> Any:
    return models.Extensions(
        topic_types=models.ExtensionsTopicTypes(topic_type=kinds),
        topic_statuses=models.ExtensionsTopicStatuses(topic_status=states),
        users=models.ExtensionsUsers(user=people) if people else None,
    )


# -- in -------------------------------------------------------------------------------------------------------
def read_bcf(path: Path) -> list[Topic]:
    """The topics of a BCF file, without a record's id. Raises JobError in one sentence for what cannot be read."""
    return topics_of(read_outside(path, _MOST_IN_ALL), path.name)


def topics_of(data: bytes, name: str) -> list[Topic]:
    """The topics of a BCF file's bytes; `name` is what sentences call it."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            return list(_topics(_Entries(file, name), name))
    except SPOILT_ZIP as error:
        raise JobError(f"{name} is no BCF file that can be read: it is no whole ZIP archive.") from error


class _Entries:
    """What is in a BCF file, read no farther than its limits. Raises JobError where there is more."""

    def __init__(self, file: zipfile.ZipFile, name: str) -> None:
        self._file, self.name, self._left = file, name, _MOST_IN_ALL
        if len(file.infolist()) > _MOST_ENTRIES:
            raise JobError(f"{name} holds {len(file.infolist())} entries; at most {_MOST_ENTRIES} are read.")
        self.names = {info.filename: info for info in file.infolist()}

    def markups(self) -> Iterator[tuple[str, str]]:
        """The folder and the entry of each topic."""
        for name in sorted(self.names):
            path = PurePosixPath(name)
            if path.name == "markup.bcf" and len(path.parts) == 2:
                yield path.parts[0], name

    def parsed(self, entry: str, type: type[T]) -> T:
        """An entry's XML."""
        data = self._read(entry)
        try:
            fromstring(data, forbid_dtd=True)
        except DefusedXmlException:
            raise JobError(f"{self.name} is refused: {entry[:80]} declares entities or a document type.") from None
        except (ParseError, ValueError, LookupError):
            raise JobError(f"{self.name} cannot be read: {entry[:80]} is no XML.") from None
        try:
            found: T = _parser().from_bytes(data, type)
            return found
        except Exception:
            raise JobError(f"{self.name} cannot be read: {entry[:80]} is not as BCF has it.") from None

    def _read(self, entry: str) -> bytes:
        info = self.names[entry]
        with self._file.open(info) as part:
            data = part.read(_MOST_BYTES + 1)
        self._left -= len(data)
        if len(data) > _MOST_BYTES or self._left < 0:
            raise JobError(f"{self.name} is refused: {entry[:80]} is larger than anything a topic needs.")
        return data


def _topics(entries: _Entries, name: str) -> Iterator[Topic]:
    if "bcf.version" not in entries.names:
        raise JobError(f"{name} is no BCF file: it does not say its version.")
    said = str(entries.parsed("bcf.version", _models("2.1").Version).version_id)
    if said not in (*VERSIONS, "2.0"):
        raise JobError(f"{name} is BCF {said[:20]}; {' and '.join(VERSIONS)} are read.")
    models = _models("3.0" if said == "3.0" else "2.1")
    for folder, entry in entries.markups():
        topic = _topic(entries, models, folder, entries.parsed(entry, models.Markup))
        if problem := topic.problem():
            raise JobError(f"{name} cannot be read: {problem[:-1]} ({entry[:80]}).")
        yield topic


def _topic(entries: _Entries, models: ModuleType, folder: str, markup: Any) -> Topic:
    raw = markup.topic
    if _is_3(models):
        comments = raw.comments.comment if raw.comments else []
        views = raw.viewpoints.view_point if raw.viewpoints else []
    else:
        comments, views = markup.comment, markup.viewpoints
    told = (c for c in comments if _said(c.comment).strip())
    remarks = tuple(Remark(_said(c.guid), _said(c.author), str(c.date), _said(c.comment)) for c in told)
    seen = (f"{folder}/{v.viewpoint}" for v in views if v.viewpoint)
    view = next((entries.parsed(path, models.VisualizationInfo) for path in seen if path in entries.names), None)
    return Topic(id="", guid=_uuid(entries.name, raw.guid), title=_said(raw.title), text=_said(raw.description),
        kind=_said(raw.topic_type), status=_said(raw.topic_status) or "Open", by=_said(raw.creation_author),
        on=str(raw.creation_date), remarks=remarks, view=_viewed(view) if view is not None else None)  # fmt: skip


def _viewed(raw: Any) -> Viewed | None:
    camera = raw.perspective_camera or raw.orthogonal_camera
    if camera is None:
        return None
    planes = raw.clipping_planes.clipping_plane if raw.clipping_planes else []
    selection = raw.components.selection if raw.components else None
    picked = [c.ifc_guid for c in (selection.component if selection else ()) if c.ifc_guid]
    return Viewed(
        _place(camera.camera_view_point), _way(camera.camera_direction), _way(camera.camera_up_vector),
        float(getattr(camera, "field_of_view", 60.0)), float(getattr(camera, "view_to_world_scale", 0.0)) * _M,
        tuple((_place(p.location), _way(p.direction)) for p in planes[:64]), tuple(picked[:_MOST_ENTRIES]),
    )  # fmt: skip


def _place(at: Any) -> Point:
    return at.x * _M, at.y * _M, at.z * _M


def _way(at: Any) -> Point:
    long = math.hypot(at.x, at.y, at.z) or 1.0
    return at.x / long, at.y / long, at.z / long


def _said(text: str | None) -> str:
    return (text or "")[:_MOST_SAID]


def _uuid(name: str, text: str | None) -> str:
    try:
        return str(uuid.UUID(text or ""))
    except ValueError:
        raise JobError(f"{name} cannot be read: “{(text or '')[:40]}” is no GUID of a topic.") from None


# -- the schemas ----------------------------------------------------------------------------------------------
@cache
def _models(version: str) -> ModuleType:
    return import_module(f"bcf.v{version[0]}.model")


def _is_3(models: ModuleType) -> bool:
    return models.__name__.startswith("bcf.v3")


@cache
def _parser() -> Any:
    from xsdata.formats.dataclass.parsers import XmlParser
    from xsdata.formats.dataclass.parsers.config import ParserConfig

    return XmlParser(config=ParserConfig(  # others may add to what the standard knows, but not say it otherwise
        fail_on_unknown_properties=False, fail_on_unknown_attributes=False, fail_on_converter_warnings=True
    ))  # fmt: skip


@cache
def _serializer() -> Callable[[Any], str]:
    from xsdata.formats.dataclass.serializers import XmlSerializer
    from xsdata.formats.dataclass.serializers.config import SerializerConfig

    return XmlSerializer(config=SerializerConfig(indent="  ")).render


def _xml(what: Any) -> bytes:
    return _serializer()(what).encode()


def _date(on: str) -> Any:
    from xsdata.models.datatype import XmlDateTime

    try:
        return XmlDateTime.from_string(on if "T" in on else f"{on}T00:00:00")
    except ValueError:
        return XmlDateTime(1970, 1, 1, 0, 0, 0)
