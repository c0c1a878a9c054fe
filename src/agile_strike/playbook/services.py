"""What a coach does with schools: read them, change a check, add a school, put the shipped ones back."""

from dataclasses import asdict, dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.core.playbook import schools as core
from agile_strike.core.registry import MEASURES
from agile_strike.core.sets.calls import BODY, NEUTRAL
from agile_strike.core.vocabulary import STRIKE_CODES
from agile_strike.gym.models import Gym
from agile_strike.playbook.models import CallWord, Check, School, Written


@dataclass(frozen=True, slots=True)
class SchoolText:
    """A school as it is written on the page."""

    name: str
    belief: str
    objects_to: list[str]
    checks: list[core.Check]


def schools(gym: Gym) -> list[School]:
    """The gym's schools; the shipped ones at first use."""
    found = list(School.objects.for_gym(gym).prefetch_related("checks"))
    if found or School.objects.with_removed_of(gym).exists():
        return found
    with transaction.atomic():
        Gym.objects.select_for_update().get(pk=gym.pk)  # two coaches may look for the first time at once
        if School.objects.with_removed_of(gym).exists():
            return list(School.objects.for_gym(gym).prefetch_related("checks"))
        for shipped in core.SHIPPED:
            _write(
                School(gym=gym),
                SchoolText(shipped.name, shipped.belief, list(shipped.objects), list(shipped.checks)),
            )
    return list(School.objects.for_gym(gym).prefetch_related("checks"))


@transaction.atomic
def save(gym: Gym, school_id: int | None, text: SchoolText, version: int = 0, by: User | None = None) -> School:
    """Write a school and its checks anew, whole. Strikes are judged by what it says from now on."""
    if not text.name.strip():
        raise BadInput("A school needs a name.")
    for check in text.checks:
        if check.measure not in MEASURES:
            raise BadInput(f"{check.name}: there is no measure called {check.measure}. Choose one from the list.")
        if check.low is not None and check.high is not None and check.low >= check.high:
            raise BadInput(f"{check.name}: {check.low:g} to {check.high:g} is no range. Put the smaller figure first.")
        if check.measure != core.CHAIN and check.low is None and check.high is None:
            raise BadInput(f"{check.name}: give at least one edge of the range.")
    row = School(gym=gym)
    if school_id is not None:
        found = School.objects.for_gym(gym).select_for_update().filter(pk=school_id).first()
        if found is None:
            raise NotYours("school")
        row = found
        if row.version != version:
            raise ChangedMeanwhile("this school", f"“{row.name}” now has {row.checks.count()} checks")
        _keep(gym, row, row.version, asdict(_text_of(row)))
        row.version += 1
    named = School.objects.with_removed_of(gym).filter(name=text.name.strip()).exclude(pk=row.pk)
    if named.exists():
        there = "was removed: take it back, or" if named[0].removed_at else "is there already:"
        raise BadInput(f"A school called {text.name.strip()} {there} choose another name.")
    _write(row, text)
    _keep(gym, row, row.version, asdict(text), by)
    return row


def _text_of(row: School) -> SchoolText:
    return SchoolText(row.name, row.belief, list(row.objects_to), [c.to_core() for c in row.checks.all()])


def _keep(gym: Gym, school: School | None, version: int, content: Any, by: User | None = None) -> None:
    """Keep what was said in a version; one that is kept already stays as it is."""
    told = {"content": content, "by": by}
    Written.objects.get_or_create(gym=gym, school=school, version=version, defaults=told)


def written(gym: Gym, school_id: int | None) -> list[Written]:
    """All that a school, or the gym's calls where none is named, ever said; the newest first."""
    if school_id is not None and not School.objects.for_gym(gym).filter(pk=school_id).exists():
        raise NotYours("school")
    return list(Written.objects.for_gym(gym).filter(school=school_id).select_related("by__member"))


def _write(row: School, text: SchoolText) -> School:
    row.name, row.belief, row.objects_to = text.name.strip(), text.belief.strip(), text.objects_to
    if row.pk is None:
        row.save()
    else:
        row.save(update_fields=["name", "belief", "objects_to", "version"])
    row.checks.all().delete()
    Check.objects.bulk_create(
        Check(school=row, name=c.name, measure=c.measure, low=c.low, high=c.high, strikes=list(c.strikes))
        for c in text.checks
    )
    return row


MOST_CALLS = 24


def call_words(gym: Gym) -> dict[str, str]:
    """The gym's call list; a neutral one until it has its own."""
    return dict(CallWord.objects.for_gym(gym).values_list("word", "code")) or dict(NEUTRAL)


@transaction.atomic
def save_call_words(gym: Gym, words: dict[str, str], before: dict[str, str], by: User | None = None) -> dict[str, str]:
    """Take a new list for the old; refused where another coach changed it meanwhile."""
    Gym.objects.select_for_update().get(pk=gym.pk)
    now = call_words(gym)
    if now != before:
        raise ChangedMeanwhile("the calls", ", ".join(f"{w} {c}" for w, c in now.items())[:200])
    if len(words) > MOST_CALLS:
        raise BadInput(f"A list holds at most {MOST_CALLS} calls.")
    for word, code in words.items():
        if not word or " " in word or word == BODY:
            raise BadInput(f"“{word[:20]}” can't be called: take one word, as 1 or jab; {BODY} is the mark of height.")
        if code not in STRIKE_CODES:
            raise BadInput(f"{code[:40]} is no strike. Choose one of the list.")
    kept = Written.objects.for_gym(gym).filter(school=None).count()
    if kept == 0:
        _keep(gym, None, 1, list(now.items()))
    _keep(gym, None, max(kept, 1) + 1, list(words.items()), by)
    CallWord.objects.filter(gym=gym).delete()
    CallWord.objects.bulk_create(
        CallWord(gym=gym, word=word, code=code, place=k) for k, (word, code) in enumerate(words.items())
    )
    return words
