"""Colours of the model with their key, by what the fabricator says of its pieces."""

from __future__ import annotations

from collections import Counter

from uncus.app.session import Session
from uncus.app.theme import Theme
from uncus.job.packages import PieceProgress, Stage

_SIGNS = {Stage.CUT: "◔", Stage.FITTED: "◑", Stage.PAINTED: "◕", Stage.SHIPPED: "○", Stage.ERECTED: "●"}


def progress_colours(session: Session, theme: Theme) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
    """Members by how far their piece is, with how many pieces are so far; not reported ones keep their colour."""
    of = dict(zip(Stage, (theme.look, theme.new, theme.moved, theme.slate, theme.go), strict=True))
    colours: dict[str, str] = {}
    count: Counter[Stage] = Counter()
    shop = session.shop
    for one in session.job.all(PieceProgress):
        if one.piece in shop.shipped:
            count[one.stage] += 1
            colours |= dict.fromkeys(shop.in_piece(one.piece), of[one.stage])
    key = [(_SIGNS[s], f"{s}: {count[s]}", of[s]) for s in Stage if count[s]]
    return colours, [*key, ("", f"not reported: {len(shop.shipped) - count.total()}", theme.steel)]
