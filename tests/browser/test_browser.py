"""The viewer used in a real browser, and our IFC read by a reader of others: only in long checks (tools/web)."""

import filecmp
import json
import subprocess
from pathlib import Path
from types import SimpleNamespace

import msgspec
import pytest

from uncus.deliver.ifc import IFC2X3, IFC4, global_id, ifc_text
from uncus.deliver.sending import package, receiver_named
from uncus.job.job import Job
from uncus.job.packages import PackageKind
from uncus.job.records import Member, Role
from uncus.mark.marking import Marks, apply, propose
from uncus.reference.step import guid
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.standin.noticeboard import Noticeboard, job_folder
from uncus.standin.serving import Server
from uncus.steel.flat import net_volume

pytestmark = pytest.mark.long
WEB = Path(__file__).parents[2] / "tools" / "web"
KIND = PackageKind(name="to look at", outputs=("page", "bills"), must=("marked",))
DAY = "2026-11-29"


def ran(script, *args):
    done = subprocess.run(["node", str(WEB / script), *map(str, args)], capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr[-2000:]
    return json.loads(done.stdout[done.stdout.index("[" if script.startswith("read") else "{") :])


def sent_twice(records, place):
    """A job whose names are hostile sent, changed at a beam, and sent again."""
    job = Job.create(place / "j.uncus", records)
    bad = "<img src=x onerror='globalThis.ran=1'></script><script>globalThis.ran=2</script>"
    with job.change("names") as change:
        change.put(msgspec.structs.replace(job.project, name=f"Job {bad}"))
        for member in job.all(Member)[:3]:
            change.put(msgspec.structs.replace(member, lot=bad))
    apply(job, propose(job, build(job)))
    folders = []
    for lot in ("1", "2"):
        beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
        with job.change("lot") as change:
            change.put(msgspec.structs.replace(beam, lot=lot))
        apply(job, propose(job, build(job)))
        sent = package(job, build(job), KIND, receiver_named(job, "X"), place, on=DAY)
        with job.change("sent") as change:
            change.put(sent.record)
        folders.append(sent.folder)
    marks = Marks(job)
    found = SimpleNamespace(folders=folders, mark=marks.of_assembly(beam.id), pieces=len(build(job).shipped), job=job)
    job.close()
    return found


def test_the_viewer_is_used_with_mouse_and_keys(sample, tmp_path):
    done = sent_twice(list(sample[0].records.values()), tmp_path)
    seen = ran("click.mjs", done.folders[1] / "viewer.html", done.mark)
    assert (seen["ready"], seen["errors"], seen["dialogs"], seen["ran"]) == ("yes", [], 0, 0)
    assert set(seen["asked"]) == {"file"}, "nothing is fetched"
    assert seen["title"].endswith("</script>") and seen["pieces"] == done.pieces == seen["afterEscape"]
    assert seen["picked"] == done.mark and 1 <= seen["rowsFound"] < done.pieces
    assert seen["found"][0] == 0 and seen["found"][1] > 100, "what is picked shows green in the model"
    assert seen["sheet"][0].startswith(done.mark) and seen["sheet"][1] > 500 and "scale" in seen["zoomed"]
    assert seen["closed"] and seen["sheets"] > 20 and seen["lists"] >= 3 and seen["cells"] > 20
    assert seen["changes"] >= 1 and any("changed" in words for words in seen["key"]) and seen["changed"] > 50
    assert seen["clicked"] and seen["clicked"][0] == seen["clicked"][1]


def test_a_noticeboard_shows_each_receiver_what_changed_for_him(sample, tmp_path):
    done = sent_twice(list(sample[0].records.values()), tmp_path)
    board = Noticeboard(tmp_path / "board")
    first = board.publish(done.folders[0])
    key = job_folder(first.job, first.number)
    board.note_taken(key, "Made-up Steel", 1, DAY)
    board.publish(done.folders[1])
    with Server(board) as server:
        server.start()
        from urllib.parse import quote

        at = f"{server.place}/{quote(key, safe='')}/2/viewer.html"
        told = ran("click.mjs", f"{at}?receiver=made-up%20steel", done.mark)
        other = ran("click.mjs", f"{at}?receiver=nobody", done.mark)
        server.shutdown()
    assert told["changed"] > 50 and told["changes"] >= 1 and told["ran"] == other["ran"] == 0
    assert other["changed"] == 0 and not other["key"] and not other["changes"]


def test_a_frame_of_two_thousand_members_stays_small_and_opens(tmp_path):
    job = Job(frame(13, 12))
    shop = build(job)
    apply(job, propose(job, shop))
    assert len(job.all(Member)) > 2000
    sent = package(job, shop, KIND, receiver_named(job, "X"), tmp_path, on=DAY)
    page = sent.folder / "viewer.html"
    assert page.stat().st_size < 15_000_000
    seen = ran("click.mjs", page, Marks(job).of_assembly(next(iter(shop.shipped))))
    assert seen["ready"] == "yes" and seen["pieces"] == len(shop.shipped) and seen["found"][1] > 0


def test_the_script_that_ships_is_the_one_that_is_made(tmp_path):
    subprocess.run(["node", str(WEB / "build.mjs"), str(tmp_path)], check=True, capture_output=True, timeout=120)
    for name in ("viewer.js", "three-LICENSE.txt"):
        assert filecmp.cmp(tmp_path / name, WEB.parents[1] / "src/uncus/deliver/web" / name, shallow=False), name


@pytest.mark.parametrize("which", ["sample", "hard_job"])
def test_a_reader_of_others_finds_the_same_in_both_schemas(which, request, tmp_path):
    job, shop = request.getfixturevalue(which)
    for schema in (IFC4, IFC2X3):
        (tmp_path / f"{schema}.ifc").write_text(ifc_text(job, shop, Marks(job), schema=schema))
    new, old = ran("read_ifc.mjs", tmp_path / "IFC4.ifc", tmp_path / "IFC2X3.ifc")
    assert (new["schema"], old["schema"]) == ("IFC4", "IFC2X3")
    assert new["counts"] == old["counts"] and new["counts"]["IFCELEMENTASSEMBLY"] == len(shop.shipped)
    assert new["counts"]["IFCMECHANICALFASTENER"] == sum(len(g.points) for g in shop.fasteners())
    assert new["counts"]["IFCFASTENER"] == len(list(shop.welds()))
    assert new["volumes"].keys() == old["volumes"].keys() >= {global_id(p) for p in shop.pieces()}
    for id, volume in new["volumes"].items():
        assert old["volumes"][id] == pytest.approx(volume, rel=1e-6), id
    for piece in shop.pieces():  # its rounds are coarse: a fillet of few facets holds more than it should
        wanted, rel = net_volume(piece.part) * 1e-9, 0.006 if piece.part.is_plate else 0.06
        assert new["volumes"][global_id(piece)] == pytest.approx(wanted, rel=rel), piece.words
    assert guid(next(iter(shop.shipped)))
