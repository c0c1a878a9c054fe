"""A gym's playbook: what ships with the product, over it what the gym wrote; every version of it is kept."""

from dataclasses import dataclass
from typing import cast

from django.contrib.auth.models import User
from django.db import transaction

from agile_strike.core.drills.ladders import Ladder
from agile_strike.core.drills.signs import Sign
from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.core.playbook.schools import CHAIN
from agile_strike.core.registry import MEASURES
from agile_strike.core.vocabulary import RESERVED, code_for
from agile_strike.gym.models import Gym
from agile_strike.playbook.contents import (
    FIXED,
    SHIPPED,
    CardText,
    Content,
    DrillText,
    FactorText,
    PointText,
    RemarksText,
    SignText,
    read,
)
from agile_strike.playbook.models import Entry
from agile_strike.playbook.strikes import known

MOST = 200  # entries of a kind


@dataclass(frozen=True, slots=True)
class Line:
    """An entry as it stands."""

    kind: str
    key: str
    content: Content
    version: int  #: 0: as it ships
    shipped: bool  #: ours is there to go back to
    off: bool  #: the gym took it off


def lines(gym: Gym, *kinds: str) -> list[Line]:
    """Every entry of these kinds, all where none is named: ours in their order, then the gym's own; those that were
    taken off along with the rest."""
    latest = {(r.kind, r.key): r for r in Entry.objects.for_gym(gym).filter(kind__in=kinds or SHIPPED).as_it_stands()}
    out = []
    for kind in kinds or SHIPPED:
        shipped = SHIPPED[kind]
        own = [key for k, key in latest if k == kind and key not in shipped]
        for key in (*shipped, *own):
            row = latest.get((kind, key))
            content = shipped.get(key)
            if row is not None and row.content is not None:
                content = read.validate_python(row.content)
            assert content is not None
            off = row is not None and row.state == Entry.State.OFF
            out.append(Line(kind, key, content, row.version if row else 0, key in shipped, off))
    return out


def _standing(gym: Gym, kind: str) -> list[tuple[str, Content]]:
    return [(line.key, line.content) for line in lines(gym, kind) if not line.off]


def remarks(gym: Gym) -> dict[str, list[str]]:
    """What is said in one tap: family of strikes -> words."""
    return {key: cast(RemarksText, c).words for key, c in _standing(gym, "remarks")}


def factors(gym: Gym) -> dict[str, list[str]]:
    return {cast(FactorText, c).name: cast(FactorText, c).levels for _, c in _standing(gym, "factor")}


def care(gym: Gym) -> dict[str, str]:
    """What is to be minded with a strike: by its code, or by its family for both sides."""
    return {key: text for key, c in _standing(gym, "strike") if (text := cast(CardText, c).care)}


def points(gym: Gym) -> dict[str, PointText]:
    """The set-up check."""
    return {key: cast(PointText, c) for key, c in _standing(gym, "point")}


def ladders(gym: Gym) -> dict[str, Ladder]:
    return {key: cast(DrillText, c).to_core(key) for key, c in _standing(gym, "drill")}


def signs(gym: Gym) -> list[Sign]:
    return [cast(SignText, c).to_core(key) for key, c in _standing(gym, "sign")]


@transaction.atomic
def save(gym: Gym, key: str, content: Content, version: int, by: User) -> Line:
    """Write an entry; without a key it is a new one. Raises BadInput where it can't be said so, ChangedMeanwhile where
    another coach wrote since `version`."""
    _held(gym)
    there = {line.key: line for line in lines(gym, content.kind)}
    if not key:
        key = _new_key(gym, content, there)
    elif key not in there:
        raise NotYours("entry")
    _check(gym, key, content, there)
    return _write(gym, there.get(key), content, key, version, Entry.State.OWN, by)


@transaction.atomic
def take_off(gym: Gym, kind: str, key: str, version: int, by: User) -> Line:
    """It is no longer there to be chosen; what was said with it stays said."""
    _held(gym)
    line = _own(gym, kind, key)
    if kind in FIXED:
        raise BadInput("These words can be changed, not taken off as a whole.")
    if kind == "drill":
        asking = [cast(SignText, c).name for _, c in _standing(gym, "sign") if cast(SignText, c).drill == key]
        if asking:
            raise BadInput(f"“{line.content.name}” is what this asks for: {asking[0]} Give that another drill first.")
    return _write(gym, line, line.content, key, version, Entry.State.OFF, by)


@transaction.atomic
def put_back(gym: Gym, kind: str, key: str, to: int, version: int, by: User) -> Line:
    """An earlier version stands again; 0 is ours."""
    _held(gym)
    line = _own(gym, kind, key)
    if to == 0:
        if not line.shipped:
            raise BadInput("This one is your own: there is no other to go back to.")
        return _write(gym, line, None, key, version, Entry.State.OURS, by)
    row = Entry.objects.for_gym(gym).filter(kind=kind, key=key, version=to).first()
    if row is None:
        raise NotYours("version")
    content = SHIPPED[kind][key] if row.content is None else read.validate_python(row.content)
    _check(gym, key, content, {one.key: one for one in lines(gym, kind)})
    return _write(gym, line, content, key, version, Entry.State.OWN, by)


def versions(gym: Gym, kind: str, key: str) -> list[Entry]:
    """All that was written of an entry, the latest first."""
    _own(gym, kind, key)
    return list(Entry.objects.for_gym(gym).filter(kind=kind, key=key).select_related("by__member").order_by("-version"))


def _held(gym: Gym) -> None:
    """One coach at a time writes the playbook."""
    Gym.objects.select_for_update().get(pk=gym.pk)


def _own(gym: Gym, kind: str, key: str) -> Line:
    found = next((line for line in lines(gym, kind) if line.key == key), None) if kind in SHIPPED else None
    if found is None:
        raise NotYours("entry")
    return found


def _write(gym: Gym, line: Line | None, content: Content | None, key: str, version: int, state: str, by: User) -> Line:
    kind = content.kind if content else line.kind if line else ""
    if line is not None and line.version != version:
        raise ChangedMeanwhile("this entry", f"“{line.content.name}” was written anew")
    kept = content.model_dump() if content and state != Entry.State.OURS else None
    Entry.objects.create(
        gym=gym, kind=kind, key=key, version=(line.version if line else 0) + 1, content=kept, state=state, by=by
    )
    return next(one for one in lines(gym, kind) if one.key == key)


def _new_key(gym: Gym, content: Content, there: dict[str, Line]) -> str:
    if content.kind in FIXED:
        raise BadInput("Remarks are kept by hands, elbows, kicks and any strike. Change one of these.")
    if sum(key not in SHIPPED[content.kind] for key in there) >= MOST:
        raise BadInput(f"A gym holds at most {MOST} of its own.")
    if isinstance(content, CardText):
        wanted = content.name.lower()
        codes = [w.code for w in known(gym) if wanted in (w.code, w.name.lower())]
        if not codes:
            raise BadInput(f"This gym knows no strike called “{content.name[:40]}”. Add it where strikes are chosen.")
        key = codes[0]
    else:
        key = content.name if isinstance(content, FactorText) else code_for(content.name)[:60]
    if not key:
        raise BadInput("Give it a name of letters or figures.")
    if key in there:
        raise BadInput(f"“{there[key].content.name}” is there already{', taken off' if there[key].off else ''}.")
    return key


def _check(gym: Gym, key: str, content: Content, there: dict[str, Line]) -> None:
    """Raises BadInput where an entry could not be used as it says."""
    for name in getattr(content, "measures", ()):
        _measure(name)
    if any(line.content.name.lower() == content.name.lower() and k != key for k, line in there.items()):
        raise BadInput(f"“{content.name}” is there already. Choose another name.")
    match content:
        case CardText(parts=[]):
            raise BadInput("Say what is counted, each part on a line of its own.")
        case DrillText(steps=[]):
            raise BadInput("A drill needs a step at least, each on a line of its own.")
        case RemarksText(words=[]):
            raise BadInput("Leave a word at least: what is tapped must be there.")
        case FactorText():
            if len(content.levels) < 2:
                raise BadInput("Two levels at the least, each on a line of its own: one is held against the other.")
            if any(sign in w for w in (content.name, *content.levels) for sign in RESERVED):
                raise BadInput(f"Leave {' '.join(RESERVED)} out of what is changed and of its levels.")
            if len(set(content.levels)) < len(content.levels):
                raise BadInput(f"{content.name}: two levels have one name.")
            if key in there and there[key].content.name != content.name:
                raise BadInput("What was compared so far is kept under this name. Add another one instead.")
        case RemarksText():
            others = [w for k, line in there.items() if k != key for w in cast(RemarksText, line.content).words]
            twice = next((w for k, w in enumerate(content.words) if w in (*content.words[:k], *others)), None)
            if twice:
                raise BadInput(f"“{twice}” is there twice. One word for one thing.")
        case SignText():
            _asks_rightly(gym, content)
        case _:
            pass


def _asks_rightly(gym: Gym, content: SignText) -> None:
    if content.drill not in ladders(gym):
        raise BadInput(f"There is no drill called “{content.drill}”. Choose one of the list.")
    if content.measure and content.measure != CHAIN:
        _measure(content.measure)
    if not content.measure and not content.remarks:
        raise BadInput("Say by which measure it is seen, or by which remarks.")
    words = {w for group in remarks(gym).values() for w in group}
    strange = next((w for w in content.remarks if w not in words), None)
    if strange:
        raise BadInput(f"“{strange}” is no remark here. Choose one of those that you tap.")


def _measure(name: str) -> None:
    if name not in MEASURES:
        raise BadInput(f"There is no measure called {name}. Choose one of the list.")
