"""The moisture ramp: the one colour scale for moisture in wood, from dry straw through reed green to wet blue-black.

Interpolated in Oklab between anchors whose lightness falls evenly with moisture, so that equal steps look equal, read
the same to colour-blind people, and survive grey print. Colour means moisture and nothing else.
"""

import itertools
import math
from functools import lru_cache

# Moisture (fraction) and Oklch lightness, chroma, hue. Fibre saturation is the corner between the second and third third.
ANCHORS = (
    (0.04, (0.915, 0.060, 92)),
    (0.12, (0.770, 0.085, 112)),
    (0.20, (0.610, 0.085, 152)),
    (0.30, (0.450, 0.075, 205)),
    (0.60, (0.320, 0.065, 245)),
    (1.20, (0.210, 0.045, 262)),
)
FIBRE_SATURATION = 0.30


def _oklab(moisture: float) -> tuple[float, float, float]:
    points = [
        (at, (light, chroma * math.cos(math.radians(hue)), chroma * math.sin(math.radians(hue)))) for at, (light, chroma, hue) in ANCHORS
    ]
    if moisture <= points[0][0]:
        return points[0][1]
    for (low, a), (high, b) in itertools.pairwise(points):
        if moisture <= high:
            share = (moisture - low) / (high - low)
            light, green, blue = (x + (y - x) * share for x, y in zip(a, b, strict=True))
            return light, green, blue
    return points[-1][1]


def _hex(light: float, a: float, b: float) -> str:
    l3, m3, s3 = (
        (light + 0.3963377774 * a + 0.2158037573 * b) ** 3,
        (light - 0.1055613458 * a - 0.0638541728 * b) ** 3,
        (light - 0.0894841775 * a - 1.2914855480 * b) ** 3,
    )
    linear = (
        4.0767416621 * l3 - 3.3077115913 * m3 + 0.2309699292 * s3,
        -1.2684380046 * l3 + 2.6097574011 * m3 - 0.3413193965 * s3,
        -0.0041960863 * l3 - 0.7034186147 * m3 + 1.7076147010 * s3,
    )
    channels = (12.92 * c if c <= 0.0031308 else 1.055 * c ** (1 / 2.4) - 0.055 for c in linear)
    return "#" + "".join(f"{round(255 * min(1, max(0, c))):02x}" for c in channels)


@lru_cache(maxsize=512)
def _colour_in_thousandths(thousandths: int) -> str:
    return _hex(*_oklab(thousandths / 1000))


def colour(moisture: float) -> str:
    """The ramp's colour for a moisture content (fraction) as ``#rrggbb``."""
    return _colour_in_thousandths(round(moisture * 1000))


def ink_on(moisture: float) -> str:
    """Dark or light writing, whichever can be read on :func:`colour`."""
    return "#04080b" if _oklab(moisture)[0] > 0.56 else "#ffffff"
