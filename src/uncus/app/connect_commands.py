"""The commands of the stage Connect, and those that attach things to members."""

from __future__ import annotations

from collections.abc import Callable

from uncus.app import by_rule, joining
from uncus.app.canvas.pulling import turn_to
from uncus.app.command import Command, by, some_members, some_selected, some_steel
from uncus.app.desk import Desk
from uncus.app.session import Session
from uncus.app.stages.joining_rules import RulesDialog
from uncus.app.stages.told import ToldDialog
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.job.records import Connection
from uncus.units import format_typed, parse_length


def _joints(session: Session) -> bool:
    return bool(session.connections or session.attachments)


def _kept(session: Session) -> bool:
    return session.copied is not None and _joints(session)


def _attach(kind: str) -> Callable[[Session], object]:
    return lambda session: joining.attach(session, kind)


def _set_back(desk: Desk) -> None:
    session = desk.session
    offer = format_typed(session.job.rules.gap, session.units)
    if text := desk.ask_name("Set back ends", offer, "Gap from what holds each end"):
        session.attempt(lambda: by_rule.set_back(session, parse_length(text, session.units)))


def _calculate(desk: Desk) -> None:
    if path := desk.file_to("Calculation sheet", "calculations.pdf", "PDF (*.pdf)"):
        joining.write_calculations(desk.session, path)


_LOADS, _STANDARDS = "Tables (*.csv)", "Standards (*.json)"


def _export_loads(desk: Desk) -> None:
    if path := desk.file_to("Export loads", "loads.csv", _LOADS):
        joining.export_loads(desk.session, path)


def _import_loads(desk: Desk) -> None:
    path = desk.file_from("Import loads", _LOADS)
    if path and (read := joining.import_loads(desk.session, path)) and read.told:
        desk.keep_open(lambda _, parent: ToldDialog("Loads that did not match", read.words, read.told, parent))


def _export_standards(desk: Desk) -> None:
    if path := desk.file_to("Export standards", "standards.json", _STANDARDS):
        joining.export_standards(desk.session, path)


def _import_standards(desk: Desk) -> None:
    if path := desk.file_from("Import standards", _STANDARDS):
        joining.import_standards(desk.session, path)


def _can(kind: str) -> Callable[[Session], bool]:
    return lambda session: kind in joining.fitting_kinds(session)


def _command(id: str, words: str, key: str, group: str, icon: str, help: str, do: Callable[[Session], object],
    when: Callable[[Session], bool]) -> Command:  # fmt: skip
    return Command(id, words, key, "Connect", group, icon, help, by(do), when)


def _asking(id: str, words: str, key: str, group: str, icon: str, help: str, do: Callable[[Desk], object],
    when: Callable[[Session], bool] = lambda _: True) -> Command:  # fmt: skip
    return Command(id, words, key, "Connect", group, icon, help, do, when)


CALCULATE = _asking(
    "calculate",
    "Calculation sheet",
    "",
    "Change",
    "sheet",
    "Every limit state of the selected joints with its formula and numbers, as a PDF.",
    _calculate,
    some_selected,
)
EXPORT_STANDARDS = Command(
    "export standards",
    "Export standards",
    "",
    "",
    "",
    "sheet",
    "Shop rules, presets and rules of joining, to a file for other jobs.",
    _export_standards,
)
IMPORT_STANDARDS = Command(
    "import standards",
    "Import standards",
    "",
    "",
    "",
    "sheet",
    "Take in an office's file; joints follow at once.",
    _import_standards,
)
CONNECT: tuple[Command, ...] = (
    Command("look at value", "Look at what it measures", "F4", "", "", "look",
        "Turn the view to what the value at hand measures, near by, and ghost the rest (Shift+A shows all again).",
        lambda desk: desk.session.attempt(lambda: turn_to(desk.session, desk.model.camera))),
    _command("rule", "Connect by rule", "R", "Connect", "rule",
        "Connect the free ends of what is selected, or of everything, by the office's rules.", by_rule.connect_by_rule,
        some_steel),
    _command("one", "Connect one", "O", "Connect", "connect",
        "Pick a member near its end, then what holds it; the kind is at the right.", Session.connect_one, some_steel),
    _command("anew", "Anew by rule", "Shift+R", "Connect", "redo",
        "Joints of the selected members made again by the office's rules, those that are locked apart.",
        by_rule.connect_again, some_members),
    _asking("joining rules", "Rules of joining", "", "Connect", "rule",
        "Which members and ends get which kind of joint with which values, in order.",
        lambda desk: desk.keep_open(RulesDialog), lambda s: True),
    _asking("setback", "Set back ends", "Shift+G", "Connect", "trim",
        "Pull free ends back by a gap before they are joined, for an advance bill.", _set_back, some_steel),
    _command("clear setbacks", "Clear setbacks", "", "Connect", "clear", "All setbacks gone as one step.",
        by_rule.clear_setbacks, lambda s: any(c.kind == "setback" for c in s.job.all(Connection))),
    _command("other side", "Other side", "Shift+S", "Change", "mirror",
        "Plates of the selected joints to the other side of the web.", joining.flip_side, _joints),
    _command("keep values", "Keep the values", "Shift+C", "Change", "copy",
        "Keep the values of one joint, to give them to others.", joining.copy_settings, _joints),
    _command("give values", "Give the values", "Shift+V", "Change", "down",
        "Give the kept values to the selected joints.", joining.give_settings, _kept),
    _asking("export loads", "Export loads", "", "Change", "sheet",
        "Loads at the ends of all members as a CSV, by mark and place, for the engineer to fill in.", _export_loads,
        some_steel),
    _asking("import loads", "Import loads", "", "Change", "sheet",
        "Take the engineer's loads from a CSV, by mark or place; what does not match is listed.", _import_loads,
        some_steel),
    CALCULATE,
    Command("uncouple", "Delete these", "Shift+Del", "Connect", "Change", "delete",
        "Delete the selected joints and attachments.", by(Session.delete), some_selected, stays=True),
    EXPORT_STANDARDS,
    IMPORT_STANDARDS,
    *(_command(f"attach {k.name}", k.words, "", "Attach", "point", k.help, _attach(k.name), _can(k.name)) for k
        in ATTACHMENTS.values()),
)  # fmt: skip
