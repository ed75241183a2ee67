"""The stage Deliver: packages, single files, and beside them lists, what changed, and what is cut from stock."""

from __future__ import annotations

from PySide6.QtWidgets import QTabWidget, QWidget

from uncus.app.session import Session
from uncus.app.stages.changes import ChangesPanel
from uncus.app.stages.deliver import DeliverPanel
from uncus.app.stages.lists import ListsPanel
from uncus.app.stages.nests import NestPanel
from uncus.app.stages.packages import PackagesPanel


class DeliverStage(QTabWidget):
    def __init__(self, session: Session, package: DeliverPanel) -> None:
        super().__init__()
        self.package = package
        self.packages: PackagesPanel = PackagesPanel(session)
        self.lists: ListsPanel = ListsPanel(session)
        self.changes: ChangesPanel = ChangesPanel(session)
        self.nests: NestPanel = NestPanel(session)
        pages: tuple[tuple[str, QWidget], ...] = (
            ("Packages", self.packages),
            ("Single files", package),
            ("Lists", self.lists),
            ("Changes", self.changes),
            ("Stock", self.nests),
        )
        for words, page in pages:
            self.addTab(page, words)
        self.setDocumentMode(True)
        self.currentChanged.connect(lambda _: self.refresh())

    def refresh(self) -> None:
        """What the page in front shows of the job."""
        page = self.currentWidget()
        if isinstance(page, PackagesPanel | DeliverPanel | ListsPanel | ChangesPanel | NestPanel):
            page.refresh()

    @property
    def at_hand(self) -> QWidget:
        """What the keys go to as the stage opens."""
        return self.packages.look_button if self.currentWidget() is self.packages else self.package.go

    def open(self, page: QWidget) -> None:
        self.setCurrentWidget(page)

    def wind_up(self) -> None:
        self.package.wind_up()
        self.packages.wind_up()
        self.changes.runner.wind_up()
        self.nests.runner.wind_up()
