"""The commands on what others make: their models and drawings beside the steel, and what is bought."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from uncus.app.command import Command
from uncus.app.desk import Desk
from uncus.app.session import Session
from uncus.app.tools.follow_lines import FollowLinesTool
from uncus.app.tools.set_item import SetItemTool
from uncus.job.references import DXF
from uncus.reference.laying import shown_products
from uncus.reference.placing import placed


def some_models(session: Session) -> bool:
    return bool(session.others.references)


def drawn_lines(session: Session) -> NDArray[np.float64]:
    """Every line of the drawings that are shown, (n, 2, 3), in the job."""
    found = [np.zeros((0, 2, 3))]
    for of, model in session.others.standing().values():
        if of.format != DXF:
            continue
        shown = shown_products(of, model)
        for n, _ in model.each():
            if shown[int(model.product[n])]:
                found.append(placed(of, model.points_of(n))[model.shapes[int(model.shape[n])].lines])
    return np.concatenate(found)


def _below(panel: str) -> Callable[[Desk], object]:
    def do(desk: Desk) -> None:
        session = desk.session
        session.put_below("" if session.below == panel else panel)

    return do


def _lay_in(desk: Desk) -> None:
    path = desk.file_from("Lay in a model or drawing", "Models and drawings (*.ifc *.dxf)")
    if path is not None:
        desk.session.put_below("others")
        desk.session.others.lay(path)


def _in_view(
    id: str,
    words: str,
    key: str,
    icon: str,
    help: str,
    do: Callable[[Desk], object],
    when: Callable[[Session], bool] = lambda _: True,
    group: str = "Others",
) -> Command:
    return Command(id, words, key, "Frame", group, icon, help, do, when)


OTHERS = (
    _in_view("lay in", "Lay in a model ...", "Ctrl+Shift+I", "others",
        "An IFC model or a DXF drawing of others beside the steel.", _lay_in),
    _in_view("others", "Others' models", "Ctrl+Shift+M", "others",
        "What is laid in: shown, coloured, placed, compared, made into members.", _below("others")),
    _in_view("follow lines", "Follow lines", "Ctrl+Shift+L", "lines",
        "Lines of a drawing become grid lines, members or plates by picking them.",
        lambda desk: desk.session.use(lambda: FollowLinesTool(desk.session, lambda: drawn_lines(desk.session))),
        some_models),
    _in_view("bought", "Bought items", "Ctrl+Shift+B", "bought",
        "The catalogue that colleagues share, and what this job has of it.", _below("bought")),
    _in_view("set item", "Set a bought item", "Shift+J", "bought",
        "Pick where its foot comes, and which way it stands out.",
        lambda desk: desk.session.use(lambda: SetItemTool(desk.session))),
)  # fmt: skip
