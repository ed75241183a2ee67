"""The commands of the stage Connect, and those that attach things to members."""

from __future__ import annotations

from collections.abc import Callable

from uncus.app import joining
from uncus.app.command import Command, ask, some_members, some_selected, some_steel
from uncus.app.session import Session
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.job.records import Connection


def _joints(session: Session) -> bool:
    return bool(session.connections or session.attachments)


def _kept(session: Session) -> bool:
    return session.copied is not None and _joints(session)


def _attach(kind: str) -> Callable[[Session], None]:
    return lambda session: _done(joining.attach(session, kind))


def _done(_: bool) -> None:
    """What was made is said already."""


def _can(kind: str) -> Callable[[Session], bool]:
    return lambda session: kind in joining.fitting_kinds(session)


def _command(id: str, words: str, key: str, group: str, icon: str, help: str, do: Callable[[Session], None], when: Callable[[Session], bool]) -> Command:  # fmt: skip
    return Command(id, words, key, "Connect", group, icon, help, do, when)


CONNECT: tuple[Command, ...] = (
    _command("rule", "Connect by rule", "R", "Connect", "rule", "Connect the free ends of what is selected, or of everything, by the office's rules.", Session.connect_by_rule, some_steel),
    _command("one", "Connect one", "O", "Connect", "connect", "Pick a member near its end, then what holds it; the kind is at the right.", Session.connect_one, some_steel),
    _command("anew", "Anew by rule", "Shift+R", "Connect", "redo", "Joints of the selected members made again by the office's rules, those that are locked apart.", Session.connect_again, some_members),
    _command("joining rules", "Rules of joining", "", "Connect", "rule", "Which members and ends get which kind of joint with which values, in order.", ask("joining rules"), lambda s: True),
    _command("setback", "Set back ends", "Shift+G", "Connect", "trim", "Pull free ends back by a gap before they are joined, for an advance bill.", ask("set back"), some_steel),
    _command("clear setbacks", "Clear setbacks", "", "Connect", "clear", "All setbacks gone as one step.", Session.clear_setbacks, lambda s: any(c.kind == "setback" for c in s.job.all(Connection))),
    _command("other side", "Other side", "Shift+S", "Change", "mirror", "Plates of the selected joints to the other side of the web.", joining.flip_side, _joints),
    _command("keep values", "Keep the values", "Shift+C", "Change", "copy", "Keep the values of one joint, to give them to others.", joining.copy_settings, _joints),
    _command("give values", "Give the values", "Shift+V", "Change", "down", "Give the kept values to the selected joints.", joining.give_settings, _kept),
    _command("export loads", "Export loads", "", "Change", "sheet", "Loads at the ends of all members as a CSV, by mark and place, for the engineer to fill in.", ask("export loads"), some_steel),
    _command("import loads", "Import loads", "", "Change", "sheet", "Take the engineer's loads from a CSV, by mark or place; what does not match is listed.", ask("import loads"), some_steel),
    _command("calculate", "Calculation sheet", "", "Change", "sheet", "Every limit state of the selected joints with its formula and numbers, as a PDF.", ask("calculate"), some_selected),
    _command("uncouple", "Delete these", "Shift+Del", "Change", "delete", "Delete the selected joints and attachments.", Session.delete, some_selected),
    *(_command(f"attach {k.name}", k.words, "", "Attach", "point", k.help, _attach(k.name), _can(k.name)) for k in ATTACHMENTS.values()),
)  # fmt: skip
