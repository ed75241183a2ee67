"""Topics to others and back: read here by other means than they are written with; nothing hostile gets in."""

import io
import re
import uuid
import xml.etree.ElementTree as ET
import zipfile

import msgspec
import numpy as np
import pytest
from PIL import Image
from tests.check.test_command import run
from tests.check.test_rules import beam, crossing_flats, put

from uncus.check.checking import Stands, aside, look, stand
from uncus.check.looked import Looked
from uncus.deliver import bcf
from uncus.deliver.bcf import VERSIONS, bcf_bytes, topics_of
from uncus.deliver.ifc import global_id, ifc_text
from uncus.deliver.topics import coming_in, going_out, remarked, topic_guid
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Remark, Topic, Verdict, Viewed
from uncus.mark.marking import Marks
from uncus.sample.frames import frame
from uncus.shop.shop import build

replace = msgspec.structs.replace
ON = "2026-11-28T10:30:00Z"


@pytest.fixture
def job():
    made = Job(frame(1, 1))
    crossing_flats(made)
    return made


def looked_at(job):
    looked = Looked(job, build(job))
    return looked, stand(look(looked), job.all(Verdict))


def sent(job):
    looked, told = looked_at(job)
    return list(going_out(looked, told, "R. Ito", ON))


def written(job, version="3.0"):
    return bcf_bytes(sent(job), job.project, version)


def taken_in(job, data):
    looked, told = looked_at(job)
    new = coming_in(looked, told, topics_of(data, "back.bcf"))
    put(job, *new)
    return new


def parts(data):
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        return {name: file.read(name) for name in file.namelist()}


def rezipped(entries):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in entries.items():
            file.writestr(name, data)
    return out.getvalue()


def the_clash(job):
    return next(t for t in looked_at(job)[1] if t.found.rule == "overlap")


# -- out ------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("version", VERSIONS)
def test_a_clash_is_a_topic_with_its_view(version, job):
    clash = the_clash(job).found
    guid = topic_guid(clash.key)
    files = parts(written(job, version))
    assert ET.fromstring(files["bcf.version"]).get("VersionId") == version
    topic = ET.fromstring(files[f"{guid}/markup.bcf"]).find("Topic")
    assert topic.get("Guid") == str(uuid.UUID(guid)) == guid and topic.get("TopicStatus") == "Open"
    assert topic.get("TopicType") == "Clash" and "fill the same space" in topic.findtext("Title")
    assert topic.findtext("CreationAuthor") == "R. Ito" and topic.findtext("CreationDate") == ON
    (view,) = [ET.fromstring(data) for name, data in files.items() if name.startswith(guid) and name.endswith(".bcfv")]
    shop = build(job)
    flats = {global_id(shop.assemblies[id].main) for id in ("one", "two")}
    assert {c.get("IfcGuid") for c in view.find("Components/Selection")} == flats
    colours = [c.get("Color") for c in view.find("Components/Coloring")]
    assert len(set(colours)) == 2 and all(len(c) == 6 for c in colours)
    ifc = ifc_text(job, shop, Marks(job))
    assert all(f"'{id}'" in ifc for id in flats), "the same ids as in the model that goes with it"
    camera = view.find("PerspectiveCamera")
    eye, way = (np.array([float(v.text) for v in camera.find(name)]) for name in ("CameraViewPoint", "CameraDirection"))
    ahead = np.array(clash.at) / 1000 - eye
    assert ahead / np.linalg.norm(ahead) == pytest.approx(way, abs=1e-3), "in metres, and it looks there"
    planes = view.find("ClippingPlanes")
    inside = np.array(clash.at) / 1000
    for plane in planes:  # directions point to what is cut off
        at, out = (np.array([float(v.text) for v in plane.find(name)]) for name in ("Location", "Direction"))
        assert (inside - at) @ out < 0
    assert len(planes) == 6
    (png,) = [data for name, data in files.items() if name.startswith(guid) and name.endswith(".png")]
    image = np.asarray(Image.open(io.BytesIO(png)).convert("RGB")).astype(int)
    red, amber = ((image[..., 0] - image[..., 2] > 60) & (band(image[..., 1])) for band in
        (lambda g: g < 75, lambda g: g > 90))  # fmt: skip
    assert red.sum() > 1000 and amber.sum() > 1000, "both pieces are seen, each in its colour"
    assert written(job, version) == written(job, version)


def test_what_was_said_goes_along(job):
    put(job, *aside([the_clash(job).found], "R. Ito", "one piece later", "2026-11-28"))
    files = parts(written(job))
    (topic,) = [t for name, d in files.items() if name.endswith("markup.bcf")
        and (t := ET.fromstring(d).find("Topic")).get("TopicType") == "Clash"]  # fmt: skip
    assert topic.get("TopicStatus") == "Closed"
    assert [c.findtext("Comment") for c in topic.find("Comments")] == ["one piece later"]


def test_other_versions_are_not_written(job):
    with pytest.raises(JobError, match=r"BCF 9 is not written; take 3\.0 or 2\.1"):
        written(job, "9")


# -- and back -------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("version", VERSIONS)
def test_it_reads_back_as_it_went_out(version, job):
    out = sorted((s.topic for s in sent(job)), key=lambda t: t.guid)
    back = sorted(topics_of(written(job, version), "b.bcf"), key=lambda t: t.guid)
    assert [(t.guid, t.title, t.text, t.kind, t.status, t.by, t.on) for t in back] == [
        (t.guid, t.title, t.text, t.kind, t.status, t.by, t.on) for t in out
    ]
    for one, other in zip(out, back, strict=True):
        assert other.view.pieces == one.view.pieces and other.view.eye == pytest.approx(one.view.eye, abs=1e-5)
    assert taken_in(job, written(job, version)) == [], "nothing new in it"
    put(job, *aside([the_clash(job).found], "R. Ito", "one piece later", "2026-11-28"))
    assert taken_in(job, written(job, version)) == []


@pytest.mark.parametrize("version", VERSIONS)
def test_answers_take_their_place_and_go_out_again(version, job):
    clash = the_clash(job).found
    answer = Remark(str(uuid.uuid4()), "K. Berg", "2026-11-29T08:00:00Z", "The second flat goes.")
    own = global_id(build(job).assemblies[beam(job).id].main)
    theirs = Topic(id="", guid=str(uuid.uuid4()), title="Beam in the duct", text="Lower it.", by="K. Berg", on=ON,
        view=Viewed((0, 0, 5000.0), (0, 0, -1.0), (0, 1.0, 0), pieces=(own,)))  # fmt: skip
    ours = next(s for s in sent(job) if s.topic.finding == clash.key)
    data = bcf_bytes(
        [replace_topic(ours, remarks=(answer,)), ours._replace(topic=theirs)], job.project, version)  # fmt: skip
    new = sorted(taken_in(job, data), key=lambda t: t.finding)
    assert [t.finding for t in new] == ["", clash.key] and new[1].remarks == (answer,)
    told = looked_at(job)[1]
    (row,) = [t for t in told if t.found.rule == "topic"]
    assert row.found.text == "Beam in the duct: Lower it (K. Berg)." and row.found.about[1] == beam(job).id
    assert row.found.at == pytest.approx((0, 0, 0)), "before its eye"
    again = {t.guid: t for t in topics_of(written(job, version), "b.bcf")}
    assert again[ours.topic.guid].remarks == (answer,) and again[theirs.guid].status == "Open"
    put(job, *aside([row.found], "R. Ito", "It is lowered.", "2026-11-30"))
    again = {t.guid: t for t in topics_of(written(job, version), "b.bcf")}[theirs.guid]
    assert again.settled and [r.text for r in again.remarks] == ["It is lowered."] and again.by == "K. Berg"
    more = replace(again, status="Open", remarks=(*again.remarks, answer))
    taken_in(
        job, bcf_bytes([replace_topic(ours, **{f: getattr(more, f) for f in more.__struct_fields__})], job.project)
    )
    assert [t.stands for t in looked_at(job)[1] if t.found.rule == "topic"] == [Stands.BACK], "they asked again"
    looked, told = looked_at(job)
    some = [one for one in told if one.found.rule != "topic"]
    assert not any(s.topic.guid == theirs.guid for s in going_out(looked, some, "", ON)), (
        "not asked for, so not answered"
    )
    (kept,) = [t for t in job.all(Topic) if not t.finding]
    put(job, replace(kept, status="Resolved"))
    assert not [t for t in looked_at(job)[1] if t.found.rule == "topic" and t.stands is not Stands.SOLVED]
    assert [s.topic.status for s in sent(job) if s.topic.guid == theirs.guid] == ["Resolved"]


def replace_topic(of, **values):
    return of._replace(topic=replace(of.topic, **values))


BOMB = b"0" * 60_000_000
ENTITY = b'<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><Markup>&b;</Markup>'

TYPED = b'<?xml version="1.0"?><!DOCTYPE Markup SYSTEM "markup.dtd">'


def without(entries, name):
    return {n: d for n, d in entries.items() if n != name}


HOSTILE = {
    "no ZIP": (lambda e, m: b"PK not really", "no whole ZIP"),
    "cut off": (lambda e, m: rezipped(e)[:-200], "no whole ZIP"),
    "no version": (lambda e, m: rezipped(without(e, "bcf.version")), "does not say its version"),
    "of a later day": (
        lambda e, m: rezipped({**e, "bcf.version": e["bcf.version"].replace(b"3.0", b"7.0")}),
        "is BCF 7.0",
    ),
    "entities": (lambda e, m: rezipped({**e, m: ENTITY}), "declares entities"),
    "a document type": (
        lambda e, m: rezipped({**e, m: TYPED + e[m].partition(b"?>")[2]}),
        "declares entities or a document",
    ),
    "no XML": (lambda e, m: rezipped({**e, m: b"<Markup>"}), "is no XML"),
    "another thing": (lambda e, m: rezipped({**e, m: b"<Html/>"}), "not as BCF has it"),
    "far too large": (lambda e, m: rezipped({**e, m: BOMB}), "larger than anything a topic needs"),
    "far too many": (lambda e, m: rezipped({**e, **{f"x/{n}": b"" for n in range(25_000)}}), "at most 20000 are read"),
    "a GUID that is none": (lambda e, m: rezipped({**e, m: _guid_gone(e[m])}), "is no GUID"),
    "from nowhere": (
        lambda e, m: rezipped({n: re.sub(b"<X>[^<]*", b"<X>9e99", d) for n, d in e.items()}),
        "farther away",
    ),
    "in words": (
        lambda e, m: rezipped({n: re.sub(b"<X>[^<]*", b"<X>ten", d) for n, d in e.items()}),
        "not as BCF has it",
    ),
    "no number": (lambda e, m: rezipped({n: _nan(d) for n, d in e.items()}), "farther away"),
}


def _guid_gone(markup):
    root = ET.fromstring(markup)
    root.find("Topic").set("Guid", "../../etc")
    return ET.tostring(root)


def _placed(entries, x):
    return {name: re.sub(b"<X>[^<]*", b"<X>" + x, data) for name, data in entries.items()}


def _nan(data):
    return data.replace(b"<FieldOfView>60.0", b"<FieldOfView>NaN")


@pytest.mark.parametrize("case", HOSTILE.values(), ids=HOSTILE)
def test_a_hostile_or_broken_file_is_refused_in_a_sentence(case, job):
    change, words = case
    entries = parts(written(job))
    markup = next(name for name in entries if name.endswith("markup.bcf"))
    with pytest.raises(JobError, match=words) as error:
        topics_of(change(entries, markup), "odd.bcf")
    assert str(error.value).startswith("odd.bcf") and str(error.value).count(". ") == 0


def test_what_is_read_is_bounded_in_all(job, monkeypatch):
    monkeypatch.setattr(bcf, "_MOST_IN_ALL", 1000)
    with pytest.raises(JobError, match="larger than anything"):
        topics_of(written(job), "odd.bcf")


def test_remarks_made_here_stay_whatever_comes_in(job):
    theirs = replace_topic(sent(job)[0], guid=str(uuid.uuid4()), title="Which rods?", finding="", by="K. Berg")
    wide = theirs._replace(topic=replace(theirs.topic, view=replace(theirs.topic.view, angle=100.0)))
    data = bcf_bytes([wide], job.project, "2.1")
    assert topics_of(data, "b.bcf")[0].view.angle == 60.0, "as wide as the older version knows"
    taken_in(job, data)
    looked, told = looked_at(job)
    put(job, *remarked(looked, [t for t in told if t.found.rule == "topic"], "R. Ito", "Four of 3/4.", ON))
    assert taken_in(job, data) == [] and [r.text for r in job.all(Topic)[0].remarks] == ["Four of 3/4."]
    assert remarked(looked, told, "R. Ito", "  ", ON) == []


def test_by_command(job, tmp_path, monkeypatch, capsys):
    path, out = tmp_path / "a.uncus", tmp_path / "out.bcf"
    job.save_copy(path)
    assert run(monkeypatch, capsys, path, "--bcf", out, "--bcf-version", "2.1", "--by", "R. Ito")[0] == 1
    theirs = replace_topic(sent(job)[0], guid=str(uuid.uuid4()), title="Which rods?", finding="", by="K. Berg")
    (tmp_path / "in.bcf").write_bytes(bcf_bytes([theirs], job.project))
    code, said, _ = run(monkeypatch, capsys, path, "--bcf-in", tmp_path / "in.bcf")
    assert code == 1 and "Which rods?" in said and "(K. Berg)" in said
    assert run(monkeypatch, capsys, path)[1].count("Which rods?") == 1, "and stays"
    (tmp_path / "bad.bcf").write_bytes(b"nothing")
    code, _, err = run(monkeypatch, capsys, path, "--bcf-in", tmp_path / "bad.bcf")
    assert code == 2 and "bad.bcf is no BCF file that can be read" in err
    code, _, err = run(monkeypatch, capsys, path, "--bcf", out, "--bcf-version", "9")
    assert code == 2 and "BCF 9 is not written" in err
