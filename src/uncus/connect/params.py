"""Parameters that several kinds share, each said once."""

from typing import Annotated

from uncus.catalog.bolts import HoleKind as HoleKind
from uncus.catalog.bolts import bolt_sizes
from uncus.job.forms import About

BY_RULE = "By the shop's rules where left empty."

Rows = Annotated[
    int | None, About("Bolt rows", unit="count", low=1, high=30, help="As many as the web takes where left empty.")
]
Bolt = Annotated[str | None, About("Bolt", unit="choice", choices=tuple(bolt_sizes()), help=BY_RULE)]
Hole = Annotated[str | None, About("Holes in plates", unit="choice", choices=tuple(HoleKind), help=BY_RULE)]
Pitch = Annotated[float | None, About("Pitch", low=30, high=400, help=BY_RULE)]
Edge = Annotated[float | None, About("Edge distance", low=15, high=200, help="Bolts to the edges of plates.")]
Gap = Annotated[float | None, About("Gap at the end", low=0, high=150, help="From what must be cleared to the end.")]
Down = Annotated[float | None, About("Top of steel to first bolt", low=20, high=2000)]
Gage = Annotated[float | None, About("Gage", low=30, high=600, help="Between the two lines of bolts.")]
Thickness = Annotated[float | None, About("Plate thickness", low=4, high=150, help=BY_RULE)]
Weld = Annotated[float | None, About("Weld leg", low=3, high=40, help="Goes with the plate where left empty.")]
Angle = Annotated[str | None, About("Angle", unit="section", help=BY_RULE)]
Where = Annotated[
    str,
    About("Welded", unit="choice", choices=("in the shop", "on site"), help="In the shop: both leave it as one piece."),
]
