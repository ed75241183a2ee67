"""Every frame by numbers there is: a new one is one file and one line here."""

from uncus.frame.numbers.bracing import BRACING
from uncus.frame.numbers.embed import EMBED
from uncus.frame.numbers.four_corners import FOUR_CORNERS
from uncus.frame.numbers.portal import PORTAL
from uncus.frame.numbers.runs import RUNS
from uncus.frame.numbers.truss import TRUSS

BY_NUMBERS = {kind.name: kind for kind in (PORTAL, BRACING, FOUR_CORNERS, RUNS, TRUSS, EMBED)}
