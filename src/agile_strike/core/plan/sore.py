"""Which strikes rest while something hurts, from a coach's own words of it."""

from collections.abc import Iterable

PLACES = {
    "hands": ("hand", "wrist", "finger", "thumb", "knuckle", "fist", "elbow", "forearm", "arm", "shoulder"),
    "kicks": ("foot", "feet", "toe", "ankle", "shin", "calf", "knee", "thigh", "leg", "groin", "hamstring", "hip"),
}


def resting(words: Iterable[str]) -> frozenset[str]:
    """`hands`, `kicks`, or both where nothing says which: until it is cleared nothing is planned for them."""
    out: set[str] = set()
    for text in words:
        said = {w.strip(".,;:!()").lower() for w in text.replace("-", " ").split()}
        said |= {w.removesuffix("s") for w in said}
        found = {kind for kind, places in PLACES.items() if said & set(places)}
        out |= found or set(PLACES)
    return frozenset(out)
