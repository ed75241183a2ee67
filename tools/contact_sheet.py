"""Makes docs/joints.png: a picture of every kind of joint. Run under a screen:

PYTHONPATH=src QT_QPA_PLATFORM=xcb xvfb-run -a -s "-screen 0 1280x800x24" python tools/contact_sheet.py
"""

from pathlib import Path

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter
from PySide6.QtTest import QTest

from uncus.app.canvas.model_view import ModelView
from uncus.app.main import application
from uncus.app.session import Session
from uncus.app.theme import LIGHT
from uncus.job.job import Job
from uncus.sample.joints import joints

OUT = Path(__file__).parent.parent / "docs" / "joints.png"
WIDE, HIGH, ROW, WORDS = 300, 240, 7, 24


def picture(records: list) -> QImage:
    session = Session(Job(records))
    session.stage = "Check"  # no work plane over the picture
    view = ModelView(session)
    view.set_theme(LIGHT)
    view.setWindowFlags(Qt.WindowType.FramelessWindowHint)
    view.resize(WIDE, HIGH)
    view.move(0, 0)
    view.show()
    QTest.qWaitForWindowExposed(view)
    session.select(["joint"])
    view.camera.yaw, view.camera.pitch = 28.0, 20.0
    view.frame()
    view.camera.scale *= 0.85
    session.select([])
    QTest.qWait(350)
    found = application().primaryScreen().grabWindow(0, 0, 0, WIDE, HIGH).toImage()
    view.close()
    view.deleteLater()
    QTest.qWait(20)
    return found


def main() -> None:
    application()
    all_joints = joints()
    rows = -(-len(all_joints) // ROW)
    sheet = QImage(ROW * WIDE, rows * (HIGH + WORDS), QImage.Format.Format_RGB32)
    sheet.fill(QColor(LIGHT.bone))
    painter = QPainter(sheet)
    font = QFont(application().font())
    font.setPixelSize(13)
    painter.setFont(font)
    for n, (words, records) in enumerate(all_joints):
        x, y = n % ROW * WIDE, n // ROW * (HIGH + WORDS)
        image = picture(records)
        painter.drawImage(QRect(x + 2, y + 2, WIDE - 4, HIGH - 4), image)
        painter.setPen(QColor("#1F2A30"))
        painter.drawText(x + 8, y + HIGH + 15, words)
    painter.end()
    sheet.save(str(OUT))


if __name__ == "__main__":
    main()
