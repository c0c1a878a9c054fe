"""Where a unit was worn, and which thing it is."""

import re
from collections import defaultdict

from agile_strike.core.recording import UNITS
from agile_strike.formats.foreign import words as w
from agile_strike.formats.foreign.found import Unit
from agile_strike.formats.foreign.sheet import Sheet
from agile_strike.formats.foreign.words import place_of

WORN = tuple(p for p in UNITS if not p.endswith("sole"))
UNDER_FOOT = tuple(p for p in UNITS if p.endswith("sole"))
PLACE_LINE = re.compile(
    r"locat|placement|position|\bplace|worn|mounted|segment|\bsite\b|body ?part|limb|stelle|\bort\b|"
    r"sensor ?name|device ?name|lieu|lugar|emplacement|ubicacion|posizione"
)
LONGEST = 200  # letters of a line that tells a place


def find_place(unit: Unit, by_file: bool) -> None:
    """By the words for it, else by its file's where it is the only unit of it; asked where none tells."""
    sheet, columns = unit.sheet, unit.load or (unit.accel.indices if unit.accel else [])
    device = sheet.columns[columns[0]].device
    texts = [unit.only[1] if unit.only else "", f"{device} {unit.stem}", device]
    if by_file:
        texts.append(re.sub(r"\.[A-Za-z0-9]{1,8}$", "", sheet.file.split("/")[-1]))
        texts += [line for line in sheet.above if len(line) < LONGEST and PLACE_LINE.search(w.plain(line))]
    for text in texts:
        side = w.side_of(text) if unit.load else ""
        place = (f"{side}sole" if side else "") if unit.load else place_of(text)
        if place:
            unit.placement = place
            return
    which = (unit.only[1] if unit.only else "") or unit.stem
    what = f"the unit “{which}”" if which else ("this load" if unit.load else "this unit")
    unit.ask("placement", f"{sheet.file}: where was {what} worn?", list(UNDER_FOOT if unit.load else WORN))


def ask_where_two_are(units: list[Unit]) -> None:
    """Units at one place, of one file or of several: their names can't both be right."""
    by: dict[str, list[Unit]] = defaultdict(list)
    for unit in units:
        by[unit.placement or ""].append(unit)
    for place, several in by.items():
        if place and len(several) > 1:
            for unit in several:
                text = f"{unit.sheet.file}: {len(several)} units are called {place}: where was this one worn?"
                unit.ask("placement", text, list(UNDER_FOOT if unit.load else WORN))


def serial_of(sheet: Sheet) -> str | None:
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
