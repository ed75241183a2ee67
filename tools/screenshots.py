"""Makes docs/screenshots from the sample job. Run under a screen:

PYTHONPATH=src QT_QPA_PLATFORM=xcb xvfb-run -a -s "-screen 0 1280x800x24" python tools/screenshots.py
"""

import subprocess
import tempfile
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

import msgspec
import numpy as np
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest

from uncus.app import framing
from uncus.app.commands import BY_ID
from uncus.app.jobs import Jobs
from uncus.app.main import application
from uncus.app.sheet.sheet_view import paint
from uncus.app.stages.lens import LensDialog
from uncus.app.stages.view_list import ViewsDialog
from uncus.app.starting.recent import Recent
from uncus.app.starting.start_page import PICTURE
from uncus.app.window import Window
from uncus.draw.drawn import sheets
from uncus.draw.register import register
from uncus.draw.sheet import Sheet
from uncus.job.composites import Composite
from uncus.job.job import Job
from uncus.job.packages import Sending
from uncus.job.records import AnyRecord, Member, Role
from uncus.mark.marking import apply, propose
from uncus.sample.architect import NAME, write_file
from uncus.sample.boathouse import FLOOR, boathouse
from uncus.sample.outside import whole
from uncus.sample.tour import tour
from uncus.units import FOOT

ROOT = Path(__file__).parent.parent
OUT = ROOT / "docs" / "screenshots"


_SHEETS = (("column", "column W10X49"),)
_LARGE = 500.0  # mm of a sheet that is taken in less detail


class Camera:
    def __init__(self, records: list[AnyRecord]) -> None:
        self.app = application()
        self.folder = tempfile.TemporaryDirectory()
        self.job = Job.create(Path(self.folder.name) / "Tern Point Boathouse.uncus", records)
        self.window = Window(self.job)
        self.window.resize(1280, 800)
        self.window.move(0, 0)
        self.window.show()
        QTest.qWaitForWindowExposed(self.window)
        self.window.activateWindow()
        QTest.qWait(500)

    def shot(self, name: str) -> None:
        QTest.qWait(400)
        self.app.primaryScreen().grabWindow(0).save(str(OUT / f"{name}.png"))

    def at(self, *point: float) -> QPoint:
        x, y, _ = self.window.model.camera.to_screen(point)[0]
        return QPoint(round(x), round(y))

    def plane(self, name: str) -> None:
        session = self.window.session
        session.set_plane(next(p for p in framing.planes(session) if p.name == name))

    def move(self, *point: float) -> None:
        QTest.mouseMove(self.window.model, self.at(*point))
        QTest.qWait(60)

    def click(self, *point: float) -> None:
        self.move(*point)
        left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        QTest.mouseClick(self.window.model, left, none, self.at(*point))
        QTest.qWait(60)

    def framing(self) -> None:
        """Drawing on a level, lifted in plan; a lens; what is left out."""
        session = self.window.session
        self.plane("Club room")
        framing.beam(session)
        z = FLOOR
        self.click(0, 20 * FOOT, z)
        self.move(22 * FOOT, 40 * FOOT, z)
        self.shot("frame")
        session.use(None)
        self.plane("Slab")
        self.window.do(BY_ID["view free"])
        self.window.do(BY_ID["lens"])
        dialog = self.window.keep_open(LensDialog)
        assert dialog is not None
        dialog.text.setText("role is rafter or (lot is 3 and not section begins W8)")
        dialog.text.textEdited.emit(dialog.text.text())
        dialog.select()
        chosen = set(session.selection)
        session.select(())
        session.seeing.ghost_rest(chosen, session.shop.assemblies)
        dialog.colour()
        self.shot("lens")
        dialog.clear()
        dialog.close()
        self.window.activateWindow()

    def outside(self) -> None:
        """The curved stair of the lookout with its values, and its sheet as printed; the erector's views by list, and
        the isometric as printed."""
        session, model = self.window.session, self.window.model
        while session.shop.waiting:
            QTest.qWait(200)
        stair = next(c for c in self.job.all(Composite) if c.kind == "winding stair")
        stringer = next(m for m in self.job.all(Member) if m.maker == stair.id and m.climb is not None)
        session.select({stringer.id})
        model.camera.yaw, model.camera.pitch = -60.0, 24.0
        model.camera.target, model.camera.scale = np.array([3000.0, -5800.0, 1900.0]), 7.5
        model.update()
        self.shot("stairs")
        apply(self.job, propose(self.job, session.shop))
        session.select(())
        self.window.do(BY_ID["usual set"])
        self.window.do(BY_ID["views"])
        dialog = self.window.keep_open(ViewsDialog)
        assert isinstance(dialog, ViewsDialog)
        dialog.table.pick(next(f.id for f in dialog.frames if f.name == "Elevation 3"))
        dialog.move(306, 320)
        self.shot("views")
        dialog.close()
        entry = next(e for e in self.window.draw.entries if e.title == "view: Isometric")
        self._printed(sheets(entry)[0], "isometric")

    def checking(self) -> None:
        """The slips of the tour found, and the view at one of them."""
        session, panel, own = self.window.session, self.window.check, dict(self.job.records)
        slips = [r for r in tour() if own.get(r.id) != r]
        session.change("slips of the hand", slips)
        session.go("Check")
        while not panel.table.rows.rows or panel.checker.running:
            QTest.qWait(100)
        panel.step(1)
        self.shot("check")
        session.undo()
        session.go("Frame")
        self.window.model.frame()

    def stages(self) -> None:
        session, job = self.window.session, self.job
        session.go("Connect")
        corner = next(m for m in job.all(Member) if m.role is Role.COLUMN and m.section == "W10X49")
        near = [c for c in session.shop.connections_at(corner.id) if c.kind == "shear tab"]
        session.select([corner.id])
        self.window.model.frame()
        self.window.model.camera.target[2] = 3500.0
        self.window.model.camera.scale = 4.0
        session.select([c.id for c in near[:3]])
        self.shot("connect")
        session.select(())
        self.window.model.frame()
        self.checking()
        apply(job, propose(job, session.shop))
        purlin = next(m for m in job.all(Member) if m.role is Role.PURLIN)
        session.change("heavier", [msgspec.structs.replace(purlin, section="W8X21")])
        session.go("Mark")
        self.window.model.frame()
        self.shot("mark")
        self.window.mark.apply()
        session.go("Draw")
        self.window.draw.open("C1")
        view = self.window.draw.view
        spot = next(s for s in view.sheet.spots if s.key.startswith("front|along"))
        for _ in range(2):  # the chain, then one of its stops
            QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.place(*spot.stops[-1][1:]).toPoint())
            QTest.qWait(60)
        self.shot("draw")
        view.back()
        session.go("Deliver")
        self.packages(purlin)
        self.bills()
        session.go("Frame")
        self.window.do(BY_ID["dark"])
        QTest.qWait(200)
        self.window.model.frame()
        session.select([purlin.id])
        self.shot("dark")

    def packages(self, purlin: Member) -> None:
        """One that went, what changed since, what stands in the way of the next, and that as its receiver sees it."""
        panel, session = self.window.delivering.packages, self.window.session
        panel.folder.setText(self.folder.name)
        panel.kind.setCurrentText("for erection")
        panel.to.setEditText("Made-up Steel")
        panel.model.setCurrentIndex(1)
        self._wait_for(panel.make)
        session.change("lighter", [msgspec.structs.replace(purlin, section="W8X18")])
        panel.kind.setCurrentText("for fabrication")
        self._wait_for(panel.look)
        panel.folder.setText("~/packages")
        self.shot("deliver")
        session.undo()
        before = self.job.head
        later = [m for m in self.job.all(Member) if m.role is Role.PURLIN][:4]
        session.change("another lot", [msgspec.structs.replace(m, lot="9") for m in later])
        apply(self.job, propose(self.job, session.shop))
        panel.folder.setText(self.folder.name)
        panel.kind.setCurrentText("for erection")
        panel.reason.setText("the crane is booked")
        self._wait_for(panel.make)
        sent = max(self.job.all(Sending), key=lambda s: s.number)
        click, mark = ROOT / "tools" / "web" / "click.mjs", session.marks.of_assembly(purlin.id)
        page = panel.went.page_of(sent)
        subprocess.run(["node", str(click), str(page), mark, str(OUT / "viewer.png")], check=True, capture_output=True)
        while self.job.head > before:
            session.undo()

    def _wait_for(self, begin: Callable[[], None]) -> None:
        begin()
        while self.window.delivering.packages.runner.under_way is not None:
            self.app.processEvents()
            time.sleep(0.02)  # QTest's own wait keeps the interpreter to itself

    def bills(self) -> None:
        """What changed since a list was kept, and bars as they are cut."""
        session, stage = self.window.session, self.window.delivering
        stage.open(stage.lists)
        stage.lists.keep_as("for approval", "2026-11-20")
        beams = [m for m in self.job.all(Member) if m.role is Role.BEAM]
        heavier = msgspec.structs.replace(beams[3], section="W12X30")
        session.change("x", [heavier, msgspec.structs.replace(beams[0], lot="7")], drop=[beams[-1].id])
        stage.open(stage.changes)
        stage.changes.with_kept()
        self.shot("changes")
        session.undo()
        stage.open(stage.nests)
        stage.nests.bars()
        while stage.nests.runner.under_way is not None:
            QTest.qWait(100)
        self.shot("bars")
        stage.open(stage.package)

    def others(self) -> None:
        """The architect's model beside the steel, and the catalogue of bought items."""
        session = self.window.session
        session.go("Frame")
        write_file(self.job.path)
        session.others.lay(self.job.path.with_name(f"{NAME}.ifc"))
        while session.others.busy:
            QTest.qWait(100)
        self.window.do(BY_ID["others"])
        panel = self.window.others
        panel.by.setCurrentText("class")
        panel.colour()
        self.window.model.frame()
        self.shot("others")
        panel.put_away()
        self.window.do(BY_ID["bought"])
        bought = self.window.bought
        bought.table.pick(next(r for r in bought.rows() if r.code == "RACK-600"))
        self.shot("bought")
        session.put_below("")
        session.change("Take out", drop=[r.id for r in session.others.references])

    def start(self) -> None:
        """The start page, with jobs that were open."""
        folder = Path(self.folder.name)
        jobs = Jobs(None, folder / "state", None)
        at = datetime.now().isoformat(timespec="seconds")
        for name, number in (("Quay House", "26-031"), ("Tern Point Boathouse", "26-014")):
            path = folder / "jobs" / f"{number} {name}.uncus"
            jobs.recent.note(Recent(str(path), name, number, at))
            place = jobs.recent.picture(str(path))
            assert place is not None
            place.parent.mkdir(parents=True, exist_ok=True)
            self.window.model.grabFramebuffer().scaled(PICTURE, Qt.AspectRatioMode.IgnoreAspectRatio).save(str(place))
            path.parent.mkdir(exist_ok=True)
            path.touch()
        start = jobs.show_start()
        start.resize(1280, 800)
        start.move(0, 0)
        for n in range(start.page.list.count()):
            item = start.page.list.item(n)
            item.setText(item.text().replace(f"{folder}/", "~/"))
        self.shot("start")
        start.close()

    def sheets(self) -> None:
        """Some sheets as printed, at 100 dots an inch; large ones at 50."""
        entries = register(self.job, self.window.session.shop)
        for name, title in _SHEETS:
            entry = next(e for e in entries if e.title == title)
            self._printed(sheets(entry)[0], name)

    def _printed(self, drawn: Sheet, name: str) -> None:
        dots = (100 if drawn.width < _LARGE else 50) / 25.4
        image = QImage(round(drawn.width * dots), round(drawn.height * dots), QImage.Format.Format_RGB32)
        image.fill(QColor("white"))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(dots, dots)
        painter.fillRect(QRectF(0, 0, drawn.width, drawn.height), QColor("white"))
        paint(painter, drawn)
        painter.end()
        image.save(str(OUT / f"sheet-{name}.png"))

    def close(self) -> None:
        self.window.close()
        self.window.deleteLater()
        self.app.processEvents()
        self.job.close()


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    camera = Camera(boathouse())
    camera.framing()
    camera.others()
    camera.stages()
    camera.start()
    camera.sheets()
    camera.close()
    camera = Camera(whole())
    camera.outside()
    camera.close()


if __name__ == "__main__":
    main()
