"""What a coach remarked on under each level of a trial: counted, never weighed."""

from collections import Counter
from dataclasses import dataclass

from agile_strike.formats.tabular import words
from agile_strike.people.models import Student
from agile_strike.review.models import Remark
from agile_strike.trials.compare import Asked, compare, standing
from agile_strike.trials.models import Trial
from agile_strike.trials.rows import LEVEL


@dataclass(frozen=True, slots=True)
class ByLevel:
    """A remark: in how many strikes of each of the two levels, and how many those are in all."""

    what: str
    strikes: list[int]
    of: list[int]


def by_level(trial: Trial, student: Student | None, what: Asked) -> list[ByLevel]:
    """The most frequent first; strikes that were thrown out say nothing."""
    table = compare(trial, [student.pk] if student else standing(trial), what, watch=False).table
    if not table.num_rows:
        return []
    level = {
        key: what.levels.index(name)
        for key, name, out in zip(
            table.column("strike_id").to_pylist(), words(table, LEVEL).tolist(), words(table, "excluded"), strict=True
        )
        if not out
    }
    of = Counter(level.values())
    said: dict[str, Counter[int]] = {}
    for strike_id, word in Remark.objects.filter(strike_id__in=level).values_list("strike_id", "what"):
        said.setdefault(word, Counter())[level[strike_id]] += 1
    order = sorted(said, key=lambda w: (-sum(said[w].values()), w))
    return [ByLevel(w, [said[w][0], said[w][1]], [of[0], of[1]]) for w in order]
