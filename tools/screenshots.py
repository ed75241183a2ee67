"""Makes docs/screenshots from the sample job. Run under a screen:

PYTHONPATH=src QT_QPA_PLATFORM=xcb xvfb-run -a -s "-screen 0 1280x800x24" python tools/screenshots.py
"""

import tempfile
from pathlib import Path

import msgspec
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest

from uncus.app.main import application
from uncus.app.sheet.sheet_view import paint
from uncus.app.window import Window
from uncus.draw.register import register, sheet
from uncus.job.job import Job
from uncus.job.records import Connection, Member, Role
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse

OUT = Path(__file__).parent.parent / "docs" / "screenshots"


class Camera:
    def __init__(self) -> None:
        self.app = application()
        self.folder = tempfile.TemporaryDirectory()
        self.job = Job.create(Path(self.folder.name) / "Tern Point Boathouse.uncus", boathouse())
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

    def beam_tool(self) -> None:
        """A beam half drawn on the club room's plane."""
        session, model = self.window.session, self.window.model
        session.next_plane()
        session.beam()
        z = session.plane.elevation
        QTest.mouseMove(model, self.at(0, 6096, z))
        QTest.mouseClick(model, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self.at(0, 6096, z))
        QTest.mouseMove(model, self.at(22 * 304.8, 12192, z))
        self.shot("frame")
        session.use(None)

    def stages(self) -> None:
        session, job = self.window.session, self.job
        tabs = [c for c in job.all(Connection) if c.kind == "shear tab"]
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
        session.change("too many rows", [msgspec.structs.replace(tabs[5], params={"rows": 9})])
        session.go("Check")
        self.window.model.frame()
        self.shot("check")
        session.undo()
        apply(job, propose(job, session.shop))
        purlin = next(m for m in job.all(Member) if m.role is Role.PURLIN)
        session.change("heavier", [msgspec.structs.replace(purlin, section="W8X21")])
        session.go("Mark")
        self.window.model.frame()
        self.shot("mark")
        self.window.mark.apply()
        session.go("Draw")
        self.window.draw.open("C1")
        self.shot("draw")
        self.window.draw.open("E2")
        self.shot("plan")
        session.go("Deliver")
        self.window.deliver.folder.setText(str(Path(self.folder.name) / "26-014 package"))
        self.window.deliver.start()
        while self.window.deliver.work is not None:
            QTest.qWait(200)
        self.window.deliver.folder.setText("26-014 package")
        self.window.deliver.words.setText(self.window.deliver.words.text().replace(self.folder.name + "/", ""))
        self.shot("deliver")
        session.go("Frame")
        session.asked.emit("dark")
        session.select([purlin.id])
        self.shot("dark")

    def sheets(self) -> None:
        """Three sheets as printed, at 100 dots an inch."""
        entries = register(self.job, self.window.session.shop)
        for name, title in (("column", "column W10X49"), ("girder", "beam W16X31"), ("rafter", "rafter W14X22")):
            entry = next(e for e in entries if e.title == title and e.kind == "assembly")
            drawn, dots = sheet(entry), 100 / 25.4
            image = QImage(round(drawn.width * dots), round(drawn.height * dots), QImage.Format.Format_RGB32)
            image.fill(QColor("white"))
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(dots, dots)
            painter.fillRect(QRectF(0, 0, drawn.width, drawn.height), QColor("white"))
            paint(painter, drawn)
            painter.end()
            image.save(str(OUT / f"sheet-{name}.png"))


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    camera = Camera()
    camera.beam_tool()
    camera.stages()
    camera.sheets()
    camera.window.close()
    camera.window.deleteLater()
    camera.app.processEvents()
    camera.job.close()


if __name__ == "__main__":
    main()
