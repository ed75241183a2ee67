"""What a receiver asks of the IFC model (IDS), held against it: what is so, what is not, and files that are none."""

import json

import ifcopenshell
import msgspec
import pytest
from tests.conftest import marked
from typer.testing import CliRunner

from uncus.cli import packages as _packages  # noqa: F401  (its commands)
from uncus.cli.common import app
from uncus.deliver import ids_proof
from uncus.deliver.ids_proof import asks_of, ids_faults
from uncus.deliver.ifc import IFC2X3, IFC4, global_id, ifc_text
from uncus.deliver.ready import ready
from uncus.deliver.sending import package, receiver_named
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.packages import PackageKind, Receiver
from uncus.mark.marking import Marks
from uncus.sample.frames import frame
from uncus.shop.shop import build

KIND = PackageKind(name="model", outputs=("ifc",), must=("marked", "ifc", "ids"))


def simple(value):
    return f"<simpleValue>{value}</simpleValue>"


def prop(base, value="", group="Steel", how="required", kind="IFCLABEL"):
    value = f"<value>{value}</value>" if value else ""
    return (f'<property dataType="{kind}" cardinality="{how}"><propertySet>{simple(group)}</propertySet>'
        f"<baseName>{simple(base)}</baseName>{value}</property>")  # fmt: skip


def pattern(words):
    return f'<xs:restriction base="xs:string"><xs:pattern value="{words}"/></xs:restriction>'


def asking(*rules, of="IFCBEAM", least=0, most="unbounded", version="IFC4", head=""):
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>\n{head}<ids xmlns="http://standards.buildingsmart.org/IDS" '
        'xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" '
        'xsi:schemaLocation="http://standards.buildingsmart.org/IDS http://nowhere.invalid/ids.xsd"><info><title>T'
        f'</title></info><specifications><specification name="As asked" ifcVersion="{version}">'
        f'<applicability minOccurs="{least}" maxOccurs="{most}"><entity><name>{simple(of)}</name></entity>'
        f"</applicability><requirements>{''.join(rules)}</requirements></specification></specifications></ids>"
    )


@pytest.fixture(scope="module")
def steel(once):
    return once("frame that is asked of", lambda: tuple(marked(frame(1, 1))[0].records.values()))


@pytest.fixture(scope="module")
def model(steel):
    job = Job(list(steel))
    shop = build(job)
    return ifc_text(job, shop, Marks(job)), ifc_text(job, shop, Marks(job), schema=IFC2X3), shop


CASES = {
    "every part has its mark": (asking(prop("Mark", pattern("[a-z]+[0-9]+"))), None),
    "and its length": (asking(prop("Length", kind="IFCLENGTHMEASURE")), None),
    "no part has such a mark": (asking(prop("Mark", pattern("Q[0-9]+"))), "Mark"),
    "a fact there is none of": (asking(prop("Paint", group="Office")), "Office"),
    "a fact that must not be": (asking(prop("Grade", how="prohibited")), "Grade"),
    "a grade by name": (asking(prop("Grade", simple("A992"))), None),
    "another grade by name": (asking(prop("Grade", simple("S355"))), "S355"),
    "a kind of entity that must be there": (asking(prop("Mark"), of="IFCSLAB", least=1), "nothing of what"),
    "a kind that must not be there": (asking(of="IFCBEAM", most=0), "none of these"),
    "an older schema": (asking(prop("Mark"), version="IFC2X3"), "the model is IFC4"),
    "either schema": (asking(prop("Mark"), version="IFC2X3 IFC4"), None),
}


@pytest.mark.parametrize("name", CASES)
def test_what_is_asked_is_held_against_the_model(name, model):
    text, against = CASES[name]
    found = ids_faults(model[0], asks_of(text.encode(), "a.ids"))
    assert bool(found) == bool(against) and all(against in one.sentence for one in found), found
    assert all("As asked: " in one.sentence for one in found)
    ids = {global_id(p) for p in model[2].pieces()}
    assert all(one.guid in ids for one in found if "(IfcBeam)" in one.asked)


def test_of_many_the_first_are_told_and_how_many_more(model, monkeypatch):
    monkeypatch.setattr(ids_proof, "_MOST", 2)
    found = ids_proof.unmet(ifcopenshell.file.from_string(model[0]), ids_proof._read(asking(prop("Paint"))))
    beams = model[0].count("=IFCBEAM(")
    assert (
        len(found) == 2 and found[-1].sentence.endswith(f" (and {beams - 2} more)") and "more)" not in found[0].sentence
    )


def test_it_is_asked_of_the_older_schema_too(model):
    asks = asks_of(asking(prop("Mark"), version="IFC2X3").encode(), "a.ids")
    assert ids_faults(model[1], asks) == [] and ids_faults(model[0], asks)


BOMB = '<!DOCTYPE a [<!ENTITY x "xx"><!ENTITY y "&x;&x;">]>'
NONE = {
    "nothing": b"",
    "no XML": b"ISO-10303-21;",
    "a path": b"/etc/hostname",
    "cut short": asking(prop("Mark")).encode()[:300],
    "entities": asking(prop("Mark"), head=BOMB).encode(),
    "not by its schema": asking(prop("Mark")).replace("title>", "titel>").encode(),
    "a pattern that is none": asking(prop("Mark", pattern("[a-"))).encode(),
    "bytes of nothing": bytes(range(256)),
    "another XML": b"<html/>",
    "too large": b" " * 5_000_001,
}


@pytest.mark.parametrize("name", NONE)
def test_a_file_that_is_no_ids_is_one_sentence(name):
    with pytest.raises(JobError, match=r"^a\.ids .*\.$") as raised:
        asks_of(NONE[name], "a.ids")
    assert "\n" not in str(raised.value)


def test_a_pattern_without_an_end_is_given_up_and_the_rest_is_told(steel, monkeypatch):
    monkeypatch.setattr(ids_proof, "_SECONDS", 3.0)
    monkeypatch.setattr(ids_proof, "_EACH_MB", 0.0)
    job = Job(list(steel))
    own = f"<attribute><name>{simple('GlobalId')}</name><value>{pattern('(.*)' * 40 + '!')}</value></attribute>"
    endless = asking(own)  # of 22 letters: it would never come back, so that what waits for it must end it
    lines = {one.name: one for one in ready(job, build(job), KIND, asks=asks_of(endless.encode(), "a.ids"))}
    assert "given up" in lines["ids"].against[0] and lines["ids"].stops and lines["ifc"].ok and lines["lists"].ok


def test_what_a_receiver_asks_is_kept_and_stands_in_the_way_of_his_package(steel, tmp_path):
    path, asks = tmp_path / "j.uncus", tmp_path / "his.ids"
    Job.create(path, steel).close()
    asks.write_text(asking(prop("Paint", group="Office"), version="IFC2X3"))
    own = ["receiver", str(path), "Made-up Steel", "--model", "ifc2x3", "--ids", str(asks), "--json"]
    told = CliRunner().invoke(app, own)
    assert json.loads(told.stdout) == {"name": "Made-up Steel", "model": "ifc2x3", "zip": False, "ids": "his.ids"}
    assert CliRunner().invoke(app, ["receiver", str(path), "X", "--model", "paper"]).exit_code
    assert "needs a name" in CliRunner().invoke(app, ["receiver", str(path), " "]).output
    done = CliRunner().invoke(app, ["ready", str(path), "--kind", "for approval", "--to", "made-up steel", "--json"])
    lines = {one["name"]: one for one in json.loads(done.stdout)["lines"]}
    assert done.exit_code == 1 and not lines["ids"]["ok"] and lines["ids"]["must"] and lines["ifc"]["ok"]
    with Job.open(path) as job:
        shop, to = build(job), receiver_named(job, "made-up steel")
        assert set(lines["ids"]["about"]) <= shop.shipped.keys() and all(lines["ids"]["about"])
        assert all(one.name != "ids" for one in ready(job, shop, KIND))  # nobody asks
        with pytest.raises(JobError, match="as its receiver asks"):
            package(job, shop, KIND, to, tmp_path / "out")
        met = msgspec.structs.replace(to, ids=asking(prop("Mark"), version="IFC2X3 IFC4"))
        sent = package(job, shop, KIND, met, tmp_path / "out")
        (model,) = sent.folder.glob("*.ifc")
        assert "FILE_SCHEMA(('IFC2X3'))" in model.read_text()[:1000]
        again = package(job, shop, KIND, Receiver(name="B", model="ifc"), tmp_path / "out2")
        (model,) = again.folder.glob("*.ifc")
        assert f"FILE_SCHEMA(('{IFC4}'))" in model.read_text()[:1000]
