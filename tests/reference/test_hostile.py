"""Files that nobody should have to fear: each one sentence, nothing half in, and never the end of the program."""

import random
import re

import numpy as np
import pytest

from tests.reference.made_up import Written, moved
from uncus.catalog.sections import section
from uncus.job.errors import JobError
from uncus.reference import reading
from uncus.reference.meshes import settled_shape
from uncus.reference.model import _ARRAYS, Model
from uncus.reference.placing import shift_for
from uncus.reference.reading import memory_for, read


@pytest.fixture(scope="module")
def sound(tmp_path_factory):
    w = Written("IFC4", "m")
    for n in range(4):
        w.bar(section("W12X26"), (0, n * 1000, 0), (6000, n * 1000, 0), name=f"b{n}")
    return w.save(tmp_path_factory.mktemp("sound") / "sound.ifc")


def spoilt(text, how):
    """The text of a sound file made bad in some way."""
    lines = text.splitlines(keepends=True)
    places = [n for n, line in enumerate(lines) if "=IFCLOCALPLACEMENT(" in line]

    def change(match, to, count=1):
        return re.sub(match, to, text, count=count, flags=re.S)

    def own(n):
        number = lines[n].partition("=")[0]
        return "".join([*lines[:n], re.sub(r"\(#\d+,", f"({number},", lines[n]), *lines[n + 1 :]])

    match how:
        case "placed relative to itself":
            return own(places[-1])
        case "placed in a ring":
            a, b = (lines[n].partition("=")[0] for n in places[-2:])
            ring = list(lines)
            ring[places[-2]] = re.sub(r"\(#\d+,", f"({b},", lines[places[-2]])
            ring[places[-1]] = re.sub(r"\(#\d+,", f"({a},", lines[places[-1]])
            return "".join(ring)
        case "no product":
            return "".join(line for line in lines if not re.search(r"=IFC(BEAM|RELCONTAINED)", line))
        case "another schema":
            return text.replace("FILE_SCHEMA(('IFC4'))", "FILE_SCHEMA(('IFC9'))")
        case "no schema":
            return change(r"FILE_SCHEMA\(\(.*?\)\);", "")
        case "bad reference":
            return change(r"IFCEXTRUDEDAREASOLID\(#\d+", "IFCEXTRUDEDAREASOLID(#999999")
        case "no numbers":
            return change(r"IFCCARTESIANPOINT\(\(0\.,2\.", "IFCCARTESIANPOINT((1.E400,2.")
        case "negative depth":
            return text.replace(",6.);", ",-6.);")
        case "no units":
            return change(r"IFCUNITASSIGNMENT\(\(.*?\)\)", "IFCUNITASSIGNMENT(())")
        case "binary":
            return text.replace("IFCBEAM", "IFC\0BEAM", 1)
    raise AssertionError(how)


WAYS = ("placed relative to itself", "placed in a ring", "no product", "another schema", "no schema", "bad reference",
    "no numbers", "negative depth", "no units", "binary")  # fmt: skip


@pytest.mark.parametrize("how", WAYS)
def test_a_bad_file_is_one_sentence(how, sound, tmp_path):
    path, kept = tmp_path / "bad.ifc", tmp_path / "kept"
    path.write_text(spoilt(sound.read_text(), how))
    assert path.read_text() != sound.read_text()
    try:
        model = read(path, kept).model
    except JobError as error:
        assert "bad.ifc" in str(error) and str(error).endswith(".") and "Traceback" not in str(error)
        assert "\n" not in str(error) and len(str(error)) < 400
        assert not kept.exists() or not any(kept.iterdir())
        if how.startswith("placed"):
            assert "relative to itself" in str(error)
    else:  # what of it is sound was read, and numbers are numbers
        assert how in ("bad reference", "no numbers", "negative depth", "no units", "binary")
        assert np.isfinite(model.places).all() and np.isfinite(model.points).all()
        assert how != "no units" or "unit" in " ".join(model.facts.notes)


def test_cut_short_empty_and_no_file_at_all(sound, tmp_path):
    data = sound.read_bytes()
    rng = random.Random(3)
    bad = {f"cut {n}.ifc": data[: rng.randrange(1, len(data) - 30)] for n in range(6)}
    bad |= {"empty.ifc": b"", "zip.ifc": b"PK\3\4" + data, "noise.ifc": rng.randbytes(5000), "folder.txt": data}
    for name, content in bad.items():
        (tmp_path / name).write_bytes(content)
        with pytest.raises(JobError, match=re.escape(name)):
            read(tmp_path / name, tmp_path / "kept")
    for name in ("nowhere.ifc", "folder.ifc"):
        if name == "folder.ifc":
            (tmp_path / name).mkdir()
        with pytest.raises(JobError, match=name):
            read(tmp_path / name, tmp_path / "kept")
    assert not (tmp_path / "kept").exists()


def test_too_little_memory_and_a_stop_are_sentences(sound, tmp_path):
    with pytest.raises(JobError, match=r"(memory|reader)"):
        read(sound, tmp_path / "kept", megabytes=60)
    asked = []

    def stopped():
        asked.append(1)
        return True

    with pytest.raises(JobError, match="Stopped"):
        read(sound, tmp_path / "kept", stopped=stopped)
    assert asked and not (tmp_path / "kept").exists()
    assert memory_for(sound) >= 1500


def test_a_reader_that_breaks_down_is_a_sentence(sound, tmp_path, monkeypatch):
    """What brings the library down outright (here: a process that kills itself) is told, and how far it was."""
    code = 'import os; print(\'{"step": "shapes", "done": 50, "of": 90}\', flush=True); os.kill(os.getpid(), 11)'
    monkeypatch.setattr(reading, "_command", lambda *_: [reading.sys.executable, "-c", code])
    with pytest.raises(JobError, match=r"brought its reader down while building shapes, after 50 of 90 \(Segm"):
        read(sound, tmp_path / "kept")


def test_what_is_kept_is_never_believed_blindly(sound, tmp_path):
    """A cache that is spoilt is read anew, and says the same."""
    kept = tmp_path / "kept"
    first = read(sound, kept).model
    (file,) = kept.iterdir()
    data = file.read_bytes()
    assert Model.unpacked(data) is not None
    rng = random.Random(8)
    for at in range(len(data)):  # what the ZIP says of itself, byte by byte
        if data[at : at + 4] in (b"PK\x01\x02", b"PK\x03\x04"):
            for k in range(30):
                Model.unpacked(data[: at + k] + b"\x63" + data[at + k + 1 :])
    for _ in range(40):
        spoilt_data = bytearray(data)
        for _ in range(rng.randrange(1, 30)):
            spoilt_data[rng.randrange(len(data))] = rng.randrange(256)
        Model.unpacked(bytes(spoilt_data))  # raises nothing
        Model.unpacked(bytes(spoilt_data[: rng.randrange(len(data))]))
    file.write_bytes(data[:-100])
    reading._KEPT.clear()
    again = read(sound, kept).model
    assert again.packed() == first.packed()
    assert Model.unpacked(file.read_bytes()) is not None


def test_kept_numbers_that_point_nowhere_are_not_taken(sound, tmp_path):
    """Whole as a file, but with an array of another shape or with numbers of what is not there."""
    model = read(sound, tmp_path / "kept").model
    bad = {"places": [model.places[:, :2], model.places[:-1], model.places * np.nan], "colours": [model.colours[:, :2],
        model.colours[:-1]], "shape": [model.shape[:-1], model.shape + 99, model.shape - 99, model.shape[:, None]],
        "product": [model.product + 99, model.product - 99], "points": [model.points * np.nan, model.points[:-1]],
        "triangles": [model.triangles + 9999, model.triangles - 9999, model.triangles[:-1]],
        "point_at": [model.point_at[:-1], model.point_at + 1, model.point_at[:0]],
        "triangle_at": [model.triangle_at[:-1], model.triangle_at[::-1]]}  # fmt: skip
    assert Model.unpacked(model.packed()) is not None
    for name, arrays in bad.items():
        for k, array in enumerate(arrays):
            other = Model(model.facts, **{n: array if n == name else getattr(model, n) for n in _ARRAYS})
            assert Model.unpacked(other.packed()) is None, (name, k)


def test_a_shape_with_a_point_that_is_no_number_is_none():
    points, triangles = np.array([(0, 0, 0), (9, 0, 0), (0, 9, 0), (np.nan, 0, 9.0)]), np.array([(0, 1, 2)], np.int32)
    assert settled_shape(points, triangles) is None and settled_shape(points[:3], triangles) is not None


def test_sizes_that_no_building_has_and_doubled_ids_are_said(tmp_path):
    w = Written("IFC4", "mm")
    w.k = 0.001  # metres written as if they were millimetres
    w.bar(section("W12X26"), (0, 0, 0), (6000, 0, 0), name="a", guid="0123456789012345678901")
    w.bar(section("W12X26"), (0, 900, 0), (6000, 900, 0), name="b", guid="0123456789012345678901")
    found = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    notes = " ".join(found.facts.notes)
    assert "unit of length is probably wrong" in notes and "more than one product" in notes
    assert sorted(p.guid for p in found.products) == ["0123456789012345678901", "0123456789012345678901#2"]


@pytest.mark.parametrize("low, high, off", [
    ((-5000, 0, 0), (20_000, 30_000, 9000), (0, 0, 0)),
    ((431_000_123, 0, 0), (431_020_123, 9000, 9000), (-431_010_000, 0, 0)),
    ((0, -171_003_456, 0), (9000, -171_000_000, 9000), (0, 171_002_000, 0)),
    ((0, 0, 2_500_000_000), (9, 9, 2_500_001_000), (0, 0, -2_500_000_000)),
])  # fmt: skip
def test_survey_coordinates_are_shifted_by_whole_metres_and_others_not_at_all(low, high, off):
    assert shift_for((np.array(low, float), np.array(high, float))) == off
    assert shift_for(None) == (0, 0, 0)


def test_far_bodies_keep_their_shape(tmp_path):
    """Geometry written in survey coordinates itself, not by its placement: to a hundredth of a millimetre."""
    w = Written("IFC4", "m")
    far = np.array((431_234_567.0, 171_000_321.0, 0.0))
    points = np.array([(0, 0, 0), (5000, 0, 0), (0, 100, 0), (0, 0, 200)], dtype=float) + far
    triangles = np.array([(0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3)])
    w.product("IfcWall", w.shape(w.faceted(points, triangles), kind="Tessellation"), moved(0, 0, 0))
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    found = np.array(sorted(model.points_of(0).tolist()))
    assert np.allclose(found, np.array(sorted(points.tolist())), atol=0.02)


def test_reading_tells_how_far_it_is(sound, tmp_path):
    told = []
    reading._KEPT.clear()
    read(sound, tmp_path / "kept", tell=lambda *one: told.append(one))
    assert [words for *_, words in told] == [f"{sound.name}: {of}" for of in ("opening", "looking at products", "done")]
