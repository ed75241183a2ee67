"""The viewer's page: what is in it is what is in the package, and no word of a package is markup or runs."""

import base64
import gzip
import hashlib
import json
import re
from concurrent.futures import ThreadPoolExecutor
from html.parser import HTMLParser
from importlib.resources import files

import msgspec
import numpy as np
import pytest
from tests.conftest import marked

from uncus.bill.pieces_changed import Changes, PieceChange
from uncus.deliver import viewer
from uncus.deliver.package import produce
from uncus.deliver.sending import package, receiver_named
from uncus.job.job import Job
from uncus.job.packages import PackageKind
from uncus.job.records import Member, Role
from uncus.mark.marking import Marks, apply, propose
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.standin.noticeboard import Noticeboard, job_folder, with_changes
from uncus.steel.solid import view_mesh as mesh

DAY = "2026-11-29"
HOSTILE = "</script><script>globalThis.ran=1</script><img src=x onerror=alert(1)>\"'&"


class Tags(HTMLParser):
    def __init__(self, page):
        super().__init__()
        self.found, self.inside, self.at = [], {}, ""
        self.feed(page.decode())

    def handle_starttag(self, tag, attrs):
        self.found.append((tag, dict(attrs)))
        self.at = dict(attrs).get("id", tag)

    def handle_data(self, data):
        self.inside[self.at] = self.inside.get(self.at, "") + data


def content(page):
    packed = re.search(rb'<script type="text/plain" id="data">([^<]*)</script>', page)[1]
    return json.loads(gzip.decompress(base64.b64decode(packed)))


def array(text, kind, *shape):
    return np.frombuffer(base64.b64decode(text), kind).reshape(*shape)


def here(_workers):
    return ThreadPoolExecutor(1)


def produced(job, shop, out, **more):
    made = produce(job, out, only=("page", "bills"), shop=shop, on=DAY, make=here, **more)
    assert not made.failures
    return (out / "viewer.html").read_bytes()


@pytest.fixture(scope="module")
def page(once, tmp_path_factory):
    job = Job(once("frame to be sent", lambda: tuple(marked(frame(1, 1))[0].records.values())))
    shop = build(job)
    return produced(job, shop, tmp_path_factory.mktemp("page") / "p"), job, shop


def test_it_holds_every_piece_where_it_is_with_its_sheets_and_lists(page):
    data, (_, job, shop) = content(page[0]), page
    marks = Marks(job)
    assert {p["id"]: p["mark"] for p in data["pieces"]} == {id: marks.of_assembly(id) for id in shop.shipped}
    of, shape = array(data["of"], "<u4", -1), array(data["shape"], "<u4", -1)
    places, origin = array(data["places"], "<f4", -1, 12), np.array(data["origin"])
    low, high = {}, {}
    bolts = sum(len(g.points) for g in shop.fasteners())
    assert len(of) == len(list(shop.pieces())) + bolts
    assert sum(bool(data["shapes"][s].get("bolt")) for s in shape) == bolts
    for n in range(len(of)):
        one = data["shapes"][shape[n]]
        if one.get("bolt"):
            continue
        points = array(one["p"], "<f4", -1, 3) @ places[n, :9].reshape(3, 3).T + places[n, 9:] + origin
        id = data["pieces"][of[n]]["id"]
        low[id] = np.minimum(low.get(id, points.min(axis=0)), points.min(axis=0))
        high[id] = np.maximum(high.get(id, points.max(axis=0)), points.max(axis=0))
    for id, a in shop.shipped.items():
        own = np.vstack([p.placement.to_model(mesh(p.part).points) for p in a.pieces])
        assert np.allclose([low[id], high[id]], [own.min(axis=0), own.max(axis=0)], atol=0.1), a.words
    for piece in data["pieces"]:
        assert piece["sheets"][0] == piece["mark"] and set(piece["sheets"]) <= data["sheets"].keys()
    assert all(one["svg"].startswith("<svg") for one in data["sheets"].values())
    titles = {one["title"] for one in data["lists"]}
    assert len(titles) == len(data["lists"]) >= 3 and all(
        len(r) == len(t["heads"]) for t in data["lists"] for r in t["rows"]
    )


def test_it_needs_nothing_else_and_only_its_own_script_runs(page):
    tags = Tags(page[0])
    policy = next(a["content"] for t, a in tags.found if a.get("http-equiv") == "Content-Security-Policy")
    script = (files("uncus.deliver") / "web" / "viewer.js").read_bytes().strip()
    sum = base64.b64encode(hashlib.sha256(script).digest()).decode()
    assert policy.startswith("default-src 'none'; ") and f"script-src 'sha256-{sum}';" in policy
    assert [a for t, a in tags.found if t == "script" and "type" not in a] == [{}], "one script, and it is ours"
    assert not [a for _, a in tags.found if "src" in a or "href" in a or any(n.startswith("on") for n in a)]
    assert b"</script" not in script.lower() and len(page[0]) < 3_000_000
    licence = (files("uncus.deliver") / "web" / "three-LICENSE.txt").read_text()
    assert "The MIT License" in licence and "three.js authors" in licence


def test_names_of_any_text_are_data(once, tmp_path):
    job = Job(once("frame to be sent", lambda: tuple(marked(frame(1, 1))[0].records.values())))
    with job.change("names") as change:
        change.put(msgspec.structs.replace(job.project, name=HOSTILE, number=HOSTILE))
        for m in job.all(Member):
            change.put(msgspec.structs.replace(m, lot=HOSTILE, finish=HOSTILE))
    apply(job, propose(job, build(job)))
    told = Changes(HOSTILE, HOSTILE, (PieceChange(HOSTILE, HOSTILE, HOSTILE, HOSTILE),))
    found = produced(job, build(job), tmp_path / "p", changes=told)
    plain = Tags(with_changes(found, None))
    tags = Tags(found)
    assert tags.found == plain.found, "no tag more than with nothing told"
    assert msgspec.json.decode(tags.inside["changes"], type=Changes) == told
    assert content(found)["pieces"][0]["lot"] == HOSTILE and content(found)["job"] == HOSTILE
    assert HOSTILE.encode() not in found


def test_a_page_too_large_goes_without_its_sheets_and_says_so(page, tmp_path, monkeypatch):
    found, job, shop = page
    monkeypatch.setattr(viewer, "LARGEST", len(found) - 1)
    small = produced(job, shop, tmp_path / "p")
    data = content(small)
    assert len(small) < len(found) and not data["sheets"] and "beside it" in data["noSheets"]
    assert produced(job, shop, tmp_path / "q") == small, "made again it is the same"


def test_it_says_what_changed_since_his_last_and_a_noticeboard_since_what_he_took(once, tmp_path):
    job = Job.create(
        tmp_path / "j.uncus", once("frame to be sent", lambda: tuple(marked(frame(1, 1))[0].records.values()))
    )
    kind = PackageKind(name="to look at", outputs=("page",), sheets=("erection",), must=("marked",))

    def sent(to):
        one = package(job, build(job), kind, receiver_named(job, to), tmp_path / to, on=DAY, make=here)
        with job.change("sent") as change:
            change.put(one.record)
        return one.folder

    def told(folder):
        return json.loads(Tags((folder / "viewer.html").read_bytes()).inside["changes"])

    first = sent("A")
    assert told(first) is None
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    with job.change("lot") as change:
        change.put(msgspec.structs.replace(beam, lot="9"))
    apply(job, propose(job, build(job)))
    second, other = sent("A"), sent("B")
    assert told(other) is None and {c["piece"]: c["how"] for c in told(second)["pieces"]}[beam.id] == "changed"
    board = Noticeboard(tmp_path / "board")
    key = job_folder(job.project.name, job.project.number)
    board.publish(first)
    board.take(key, "C", tmp_path / "c", DAY)
    board.publish(other)
    took = board.take(key, "C", tmp_path / "c", DAY)
    assert beam.id in {c["piece"] for c in told(took.folder)["pieces"]}
    job.close()
