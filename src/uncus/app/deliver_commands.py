"""The commands of the stage Deliver: packages, single files, lists, and what is cut from stock."""

from __future__ import annotations

from collections.abc import Callable

from uncus.app.command import Command, some_steel
from uncus.app.desk import Desk


def _deliver(id: str, words: str, key: str, group: str, icon: str, help: str, do: Callable[[Desk], object]) -> Command:
    return Command(id, words, key, "Deliver", group, icon, help, do, some_steel)


def _ready(desk: Desk) -> None:
    desk.delivering.open(desk.delivering.packages)
    desk.delivering.packages.look()


def _package(desk: Desk) -> None:
    desk.delivering.open(desk.delivering.packages)
    desk.delivering.packages.make()


def _produce(desk: Desk) -> None:
    desk.delivering.open(desk.deliver)
    desk.deliver.start()


DELIVER = (
    _deliver("ready", "Ready?", "Ctrl+R", "Package", "look",
        "Everything that must be so before a package goes, each with what stands in its way.", _ready),
    _deliver("package", "Make the package", "Ctrl+P", "Package", "package",
        "Of a kind, to a receiver: whole or not at all, read back, kept as it went.", _package),
    _deliver("produce", "Single files", "Ctrl+Shift+P", "Package", "sheet",
        "Sheets, NC, DXF, IFC and bills into one folder, for own use.", _produce),
    _deliver("lists", "Lists", "Ctrl+I", "Bills", "list", "Lists as they will be printed; kept as they are sent.",
        lambda desk: desk.delivering.open(desk.delivering.lists)),
    _deliver("changes", "What changed", "Ctrl+M", "Bills", "changed",
        "Since a kept list, a package or another job: pieces, tonnes and why.",
        lambda desk: desk.delivering.open(desk.delivering.changes)),
    _deliver("nest", "Bars and sheets", "Ctrl+B", "Bills", "stock",
        "Cut lengths laid into stock, plates into sheets, what is to be bought.",
        lambda desk: desk.delivering.open(desk.delivering.nests)),
)  # fmt: skip
