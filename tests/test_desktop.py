"""The desktop's own files, put in place and taken away; a wheel with all data inside, in an empty environment."""

import configparser
import subprocess
import sys
import venv
from pathlib import Path
from xml.etree import ElementTree

import pytest

from uncus.cli import desktop
from uncus.job.errors import JobError
from uncus.job.job import Job

ROOT = Path(__file__).parent.parent


def everything(folder):
    return {str(p.relative_to(folder)): p.read_bytes() if p.is_file() else None for p in folder.rglob("*")}


@pytest.mark.parametrize("there", [(), ("applications/other.desktop", "mime/packages/other.xml", "icons/x.svg")])
def test_what_is_installed_is_taken_away_and_the_folder_is_as_it_was(tmp_path, there, monkeypatch):
    for name in there:
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text("[Desktop Entry]\nName=Other\n" if name.endswith("desktop") else
            '<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info"/>')  # fmt: skip
    desktop._tell(tmp_path)
    before = everything(tmp_path)
    tell = desktop._tell

    def meanwhile(folder):
        """Other programs write there at the same time."""
        tell(folder)
        for name in ("applications/game.desktop", "mail/box"):
            (folder / name).parent.mkdir(exist_ok=True)
            (folder / name).write_text("theirs")

    monkeypatch.setattr(desktop, "_tell", meanwhile)
    made = desktop.install(tmp_path, desktop.starter())
    monkeypatch.setattr(desktop, "_tell", tell)
    assert not {"applications/game.desktop", "mail/box", "mail"} & {*made.files, *made.folders}
    for name in ("applications/game.desktop", "mail/box"):
        (tmp_path / name).unlink()
    (tmp_path / "mail").rmdir()
    assert set(made.files) >= {"applications/uncus.desktop", "mime/packages/uncus.xml"}
    again = desktop.install(tmp_path, desktop.starter())
    assert set(again.files) == set(made.files), "twice is once"
    assert desktop.remove(tmp_path) >= 4
    assert everything(tmp_path) == before
    with pytest.raises(JobError, match="nothing to take away"):
        desktop.remove(tmp_path)


def test_the_entry_says_how_and_what(tmp_path):
    start = desktop._quoted("/opt/a b$/100%/uncus")
    desktop.install(tmp_path, start)
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str
    entry.read(tmp_path / "applications" / "uncus.desktop")
    told = entry["Desktop Entry"]
    assert told["Exec"].endswith(" open %f") and told["MimeType"] == "application/x-uncus;" and told["Icon"] == "uncus"
    assert '"/opt/a b\\\\$/100%%/uncus"' in told["Exec"]
    kind = ElementTree.parse(tmp_path / "mime" / "packages" / "uncus.xml").getroot()
    space = "{http://www.freedesktop.org/standards/shared-mime-info}"
    assert kind.find(f".//{space}glob").get("pattern") == "*.uncus"
    match = kind.find(f".//{space}match")
    Job.create(tmp_path / "a.uncus").close()
    head = (tmp_path / "a.uncus").read_bytes()
    at = int(match.get("offset"))
    assert int.from_bytes(head[at : at + 4], "big") == int(match.get("value"), 16), "a job's own bytes are told"


def test_a_kept_list_from_elsewhere_touches_nothing_outside(tmp_path):
    data = tmp_path / "data"
    (tmp_path / "uncus-precious").write_text("mine")
    (data / "uncus").mkdir(parents=True)
    (data / "uncus" / "desktop.json").write_text('{"files": ["../uncus-precious", "/etc/uncus"], "folders": [".."]}')
    desktop.remove(data)
    assert (tmp_path / "uncus-precious").read_text() == "mine"


@pytest.mark.slow
def test_a_wheel_runs_in_an_environment_of_its_own(tmp_path):
    """Built offline and installed without an index; it sees the check's packages and nothing of the source."""
    build = [sys.executable, "-m", "flit_core.wheel", "--outdir", str(tmp_path), str(ROOT)]
    subprocess.run(build, check=True, capture_output=True)
    (wheel,) = tmp_path.glob("*.whl")
    home = tmp_path / "env"
    venv.create(home, with_pip=False)
    packages = next(p for p in sys.path if p.endswith("site-packages"))
    (site,) = home.glob("lib/python*/site-packages")
    pip = [sys.executable, "-m", "pip", "--python", str(home / "bin" / "python"), "install", "-q", "--no-deps"]
    subprocess.run([*pip, "--no-index", str(wheel)], check=True, capture_output=True)
    (site / "check.pth").write_text(packages)
    clean = {"PATH": "/usr/bin:/bin", "HOME": str(tmp_path), "LANG": "C.UTF-8"}

    def run(*words):
        done = subprocess.run([home / "bin" / "uncus", *words], capture_output=True, text=True, env=clean, cwd=tmp_path)
        assert not done.returncode, done.stderr
        return done.stdout

    assert run("--version").startswith("uncus 0.")
    run("sample", "a.uncus")
    run("mark", "a.uncus")
    run("produce", "a.uncus", "--out", "out", "--only", "sheets,bills", "--lens", "role is brace")
    assert list((tmp_path / "out").rglob("*.pdf")), "fonts, templates and tables are all inside"
    script = "import uncus; from uncus.app.shelf import icon; print(uncus.__file__, icon.__name__)"
    told = subprocess.run([home / "bin" / "python", "-c", script], capture_output=True, text=True, env=clean)
    assert str(home) in told.stdout, told.stderr
    window = subprocess.Popen([home / "bin" / "uncus"], env={**clean, "QT_QPA_PLATFORM": "offscreen"}, cwd=tmp_path)
    with pytest.raises(subprocess.TimeoutExpired):
        window.wait(4)  # the start page stays
    window.terminate()
    assert window.wait(20) == 0, "and goes in order when it is asked to"
