"""Lines are left out under words, and nowhere else."""

import math

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from uncus.draw.lettering import width
from uncus.draw.parted import parted
from uncus.draw.sheet import Circle, Layer, Line, Text

place = st.floats(0.0, 60.0)
words = st.builds(Text, place, place, st.sampled_from(["B12", "W12X26 (+12'-0)", "1"]), st.just(2.5),
    st.sampled_from("lcr"), st.sampled_from([0.0, 90.0, 30.0, -41.0]))  # fmt: skip
lines = st.builds(Line, st.sampled_from([Layer.STICK, Layer.CENTRE, Layer.LEADER]), place, place, place, place)


def inside(text, points, by):
    """Which points lie within the capitals of a text, grown by so much."""
    long = width(text.text, text.height)
    left = {"l": 0.0, "c": -long / 2, "r": -long}[text.anchor]
    turn = math.radians(text.angle)
    c, s = math.cos(turn), math.sin(turn)
    u, v = np.array([[c, s], [-s, c]]) @ (points - (text.x, text.y)).T
    return (u > left - by) & (u < left + long + by) & (abs(v) < text.height / 2 + by)


@given(st.lists(words, max_size=6), st.lists(lines, max_size=6))
def test_no_line_is_left_under_words_and_none_is_missing_elsewhere(texts, drawn):
    items = [*drawn, Circle(Layer.STICK, 5.0, 5.0, 5.0), *texts]
    after = parted(items, texts)
    assert [i for i in after if not isinstance(i, Line)] == [i for i in items if not isinstance(i, Line)]
    for layer in (Layer.STICK, Layer.CENTRE, Layer.LEADER):
        was, now = ([i for i in some if isinstance(i, Line) and i.layer is layer] for some in (items, after))
        if layer is Layer.LEADER:
            assert was == now
            continue
        for line in now:
            points = np.linspace((line.x1, line.y1), (line.x2, line.y2), 60)
            assert not any(inside(text, points, 0.05).any() for text in texts)
        for line in was:
            long = math.dist((line.x1, line.y1), (line.x2, line.y2))
            points = np.linspace((line.x1, line.y1), (line.x2, line.y2), 200)
            free = ~np.any([inside(text, points, 1.1) for text in texts] or [[False] * 200], axis=0)
            for p in points[free] if long > 3.0 else ():
                assert min((_off(p, one) for one in now), default=9.0) < 0.9 + long / 100


def _off(p, line):
    a, d = np.array((line.x1, line.y1)), np.array((line.x2 - line.x1, line.y2 - line.y1))
    share = min(max(float((p - a) @ d) / max(float(d @ d), 1e-12), 0.0), 1.0)
    return float(np.hypot(*(p - a - share * d)))
