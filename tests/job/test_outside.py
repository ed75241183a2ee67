"""Files of others, and names made of any text: refused in a sentence or read; never outside their folder."""

import os
import resource
import stat
from pathlib import Path

import msgspec
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from uncus.connect import standards
from uncus.deliver.folder import Folder, written
from uncus.draw import preset
from uncus.job.errors import JobError
from uncus.job.files import file_name, json_of, read_outside, text_of, writable, write_beside
from uncus.job.job import Job
from uncus.lens import criteria
from uncus.mark import standards as parts


class Held(msgspec.Struct):
    name: str
    deep: object = None


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ('{"name": "é"}'.encode("latin-1"), "is not UTF-8 text"),
        (b"\xff\xfe{\x00", "is not UTF-16-LE text|can be read"),
        (b"", "can be read"),
        (b"\xef\xbb\xbf[]", "can be read"),
        (b'{"name":"a","deep":' + b"[" * 200_000, "nested too deeply"),
        (b'{"name":"a","deep":' + b'{"a":' * 100_000, "nested too deeply"),
        (b'{"name":7}', "can be read"),
        (b'{"name":"a","deep":1e99999}', "can be read"),
        (b'{"name":"' + b"x" * 5_000_000, "can be read"),
        (b'{"' + b"x" * 5_000_000 + b'":1', "can be read"),
    ],
)
def test_json_that_cannot_be_read_is_one_short_sentence(data, says):
    with pytest.raises(JobError, match=says) as refused:
        json_of(data, Held, "held.json", "names")
    assert len(str(refused.value)) < 300 and "held.json" in str(refused.value)
    for reader in (standards.from_json, preset.from_json, criteria.from_json, parts.from_json):
        with pytest.raises(JobError) as refused:
            reader(data, "held.json")
        assert len(str(refused.value)) < 400


def test_text_with_any_byte_order_mark_is_read():
    for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-32"):
        assert json_of('{"name":"é"}'.encode(encoding), Held, "x", "names").name == "é"
        assert text_of("é".encode(encoding)) == "é"


def test_what_is_no_plain_file_is_refused_at_once(tmp_path):
    pipe, folder, file = tmp_path / "pipe", tmp_path / "folder", tmp_path / "file"
    os.mkfifo(pipe)
    folder.mkdir()
    file.write_bytes(b"12345")
    for path in (pipe, folder, Path("/dev/zero"), tmp_path / "none", Path("a\0b")):
        with pytest.raises(JobError, match=r"cannot be read|can be read"):
            read_outside(path)
    with pytest.raises(JobError, match="too large"):
        read_outside(file, 4)
    assert read_outside(file, 5) == b"12345"


@given(st.text(max_size=300) | st.text(alphabet='./\\ :*?<>|"\0\ncCoOnN1~-', max_size=30))
@example("../../victim/nc/B1")
@example("..")
@example("CON")
@example("nul.txt")
@example(".hidden")
@example("é" * 300)
def test_any_text_gives_a_file_name_safe_anywhere(text):
    name = file_name(text)
    assert name and name not in (".", "..") and not name.startswith(".") and not name.endswith((".", " "))
    assert not set(name) & set('/\\:*?"<>|\0\n') and len(name.encode()) <= 120
    assert name.split(".")[0].upper() not in {"CON", "PRN", "AUX", "NUL", "COM1", "LPT1"}
    assert file_name(name) == name, "a name that is safe is left alone"


def test_nothing_is_written_outside_a_package_nor_over_another_file(tmp_path):
    (tmp_path / "package").mkdir()
    folder = Folder(tmp_path / "package")
    names = [folder.put("nc", mark, ".nc1", mark.encode()) for mark in ("B1", "b1", "B/1", "B:1", "../../B1", "B1")]
    assert names[:2] == ["nc/B1.nc1", "nc/b1-2.nc1"] and len({n.casefold() for n in names}) == len(names)
    assert sorted(str(p.relative_to(tmp_path / "package")) for p in tmp_path.rglob("*.nc1")) == sorted(names)
    (tmp_path / "package" / "out").symlink_to(tmp_path)
    for place in ("..", "nc/../..", "out"):
        with pytest.raises(JobError, match="outside the package"):
            folder.put(place, "x", ".txt", b"")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["package"]


def test_a_file_is_written_whole_with_its_own_rights_or_not_at_all(tmp_path):
    path = tmp_path / "a" / "b.json"
    write_beside(path, b"one")
    assert path.read_bytes() == b"one" and stat.S_IMODE(path.stat().st_mode) == 0o666 & ~_umask()
    path.chmod(0o640)
    write_beside(path, b"two")
    assert path.read_bytes() == b"two" and stat.S_IMODE(path.stat().st_mode) == 0o640
    path.unlink()
    path.mkdir()
    for bad in (path, tmp_path / "a" / ("x" * 300), Path("/dev/full/x")):
        with pytest.raises(JobError, match="cannot be written"):
            write_beside(bad, b"three")
    assert [p.name for p in (tmp_path / "a").iterdir()] == ["b.json"]
    with pytest.raises(JobError, match="is a folder"):
        writable(path)
    writable(tmp_path / "new" / "folder" / "file")


def test_nothing_but_a_job_is_written_over_a_job(tmp_path):
    path, link = tmp_path / "a.uncus", tmp_path / "bills.pdf"
    Job.create(path).close()
    link.symlink_to(path)
    before = path.read_bytes()
    for place in (path, link):
        for write in (lambda p: write_beside(p, b"%PDF"), writable):
            with pytest.raises(JobError, match="is an Uncus job and is not written over"):
                write(place)
    assert path.read_bytes() == before


def test_long_names_and_links_are_written_as_others_are(tmp_path):
    path = tmp_path / ("木" * 80 + ".uncus")
    write_beside(path.with_suffix(".json"), b"one")
    with Job.create(path) as job:
        job.save_copy(tmp_path / ("é" * 120 + ".uncus"))
    package, link = tmp_path / "package", tmp_path / "link"
    for text in (b'{"files": []}', b'{"files": [ ]}'):
        with written(link if link.exists() else package) as folder:
            folder.put("", "manifest", ".json", text)
        if not link.exists():
            link.symlink_to(package)
    assert link.is_symlink() and (package / "manifest.json").read_bytes() == text
    assert len(list(tmp_path.iterdir())) == 5


def test_a_full_disk_leaves_nothing_half_written(tmp_path):
    path = tmp_path / "a.json"
    write_beside(path, b"one")
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (2000, hard))
    try:
        with pytest.raises(JobError, match="cannot be written"):
            write_beside(path, b"x" * 5000)
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
    assert [p.name for p in tmp_path.iterdir()] == ["a.json"] and path.read_bytes() == b"one"


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
