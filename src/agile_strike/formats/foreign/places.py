"""Where a unit was worn, and which thing it is."""

import re
from collections import defaultdict

from agile_strike.formats.foreign import words as w
from agile_strike.formats.foreign.found import Unit
from agile_strike.formats.foreign.sheet import Sheet
from agile_strike.formats.foreign.words import Said, place_of


def place(unit: Unit, stem: str, said: list[Said], by_file: bool) -> None:
    sheet = unit.sheet
    texts = []
    if unit.only is not None:
        texts.append(unit.only[1])
    columns = unit.load or (unit.accel.indices if unit.accel else [])
    texts += [f"{sheet.columns[columns[0]].device} {stem}"]
    texts += [sheet.columns[k].device for k in columns[:1]]
    if by_file:
        texts.append(re.sub(r"\.[A-Za-z0-9]{1,8}$", "", sheet.file.split("/")[-1]))
        texts += [
            line
            for line in sheet.above
            if re.search(
                r"locat|placement|position|place|worn|mounted|segment|site|"
                r"body|limb|stelle|ort\b|sensor ?name|device ?name|lieu|lugar|"
                r"emplacement|ubicacion|posizione|label|name",
                w.plain(line),
            )
            and len(line) < 200
        ]
    for text in texts:
        if unit.load:
            side = w.side_of(text)
            if side:
                unit.placement = f"{side}sole"
                return
        else:
            place = place_of(text)
            if place:
                unit.placement = place
                return
    which = (unit.only[1] if unit.only else "") or stem
    what = f"the unit “{which}”" if which else ("this load" if unit.load else "this unit")
    where = (
        ["leftsole", "rightsole"]
        if unit.load
        else [
            "bag",
            "leftwrist",
            "rightwrist",
            "leftforearm",
            "rightforearm",
            "leftankle",
            "rightankle",
            "pelvis",
            "torso",
        ]
    )
    unit.ask("placement", f"{sheet.file}: where was {what} worn?", where)


def same_place(units: list[Unit]) -> None:
    """Two units at one place: the names can't both be right."""
    by: dict[str, list[Unit]] = defaultdict(list)
    for unit in units:
        if unit.placement:
            by[unit.placement].append(unit)
    for place, several in by.items():
        if len(several) > 1:
            for unit in several:
                unit.ask(
                    "placement", f"{unit.sheet.file}: several units are called {place}: where was each worn?", [place]
                )


def serial_of(sheet: Sheet, unit: Unit) -> str | None:
    for line in sheet.above:
        found = re.search(
            r"(?:serial(?:\s*(?:no|nr|number|num))?|s/n|seriennummer|numero de serie|device ?id|mac)\b"
            r"[\s.:=,;\"#]*([A-Za-z0-9][A-Za-z0-9\-:_]{2,30})",
            line,
            re.I,
        )
        if found:
            return found[1]
    return None
