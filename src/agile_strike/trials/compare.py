"""The comparison of two levels as it stands: the sentence, every strike, what else moved, what weakens it."""

import hashlib
import io
import json
import re
import shlex
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pyarrow as pa

from agile_strike.capture.basis import about_s, known_of
from agile_strike.capture.models import Chunk, Recording
from agile_strike.core.errors import BadInput
from agile_strike.core.measures.measure import Measure
from agile_strike.core.registry import find
from agile_strike.core.trial import design
from agile_strike.core.trial import words as say
from agile_strike.core.trial.claim import Claim, Strikes, claim
from agile_strike.core.trial.refuse import HELD
from agile_strike.formats.tabular import as_csv, cell, figures, narrowed, short, words
from agile_strike.formats.trial_table import document, free_of_body_mass, trials
from agile_strike.kit.models import Bag
from agile_strike.people.models import Student
from agile_strike.trials.models import Claim as ClaimRow
from agile_strike.trials.models import ClaimPage, Trial
from agile_strike.trials.pages import (
    AlsoOut,
    BlockMeanOut,
    ClaimOut,
    CompareOut,
    DotsOut,
    LateOut,
    NarrowOut,
    SentenceOut,
    SummaryOut,
)
from agile_strike.trials.rows import BEHIND, LEVEL, earlier, trial_table

RULES = "4"  # of the claim: a change of how it is computed makes every kept claim anew
NAME = "the trial"


@dataclass(frozen=True, slots=True)
class Asked:
    """What a coach wants compared; empty is the trial's own."""

    measure: str
    levels: tuple[str, str]
    worth_pct: float | None
    only: str = ""  #: `column=value`, where the trial is narrowed

    @property
    def key(self) -> str:
        return "|".join((self.measure, *self.levels, f"{self.worth_pct}", self.only))


def asked(trial: Trial, measure: str, levels: str, worth_pct: float | None, only: str) -> Asked:
    """Raises BadInput for a measure or level that there is not."""
    told = find(measure or trial.measure)
    if told is None or not told.numeric:
        raise BadInput(f"There is no measure called {measure}. Choose one from the list.")
    pair = tuple(levels.split("|")) if levels else tuple(trial.levels[:2])
    if len(pair) != 2 or pair[0] == pair[1] or not set(pair) <= set(trial.levels):
        raise BadInput(f"Compare two of {', '.join(trial.levels)}.")
    worth = trial.worth_pct if worth_pct is None else worth_pct
    if worth is not None and not 0.0 < worth < 100.0:
        raise BadInput("The smallest change worth having is above 0 and below 100 per cent.")
    return Asked(told.name, (pair[0], pair[1]), worth, only)


@dataclass(frozen=True, slots=True)
class Compared:
    """A trial's strikes with the claim on them, and the claims on what is watched."""

    table: pa.Table
    claim: Claim
    also: list[tuple[Measure, Claim]]


_NOTHING = Strikes(*(np.zeros(0, dtype=np.int64),) * 2, np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros(0), (), {})


def compare(trial: Trial, students: list[int], what: Asked, watch: bool = True) -> Compared:
    """One comparison from the strikes, with what else moved where that is asked for."""
    watched = [m for m in dict.fromkeys(trial.watch) if m != what.measure and watch]
    table = trial_table(trial, students, [what.measure, *watched])
    if what.only:
        table = narrowed(table, [what.only], NAME)
    if table.num_rows:
        table = table.filter(pa.array(np.isin(words(table, LEVEL), what.levels)))
    if not table.num_rows:
        nothing = claim(replace(_NOTHING, levels=what.levels))
        return Compared(table, replace(nothing, refused=_nothing_yet(trial, students)), [])
    base = _in_order(table, what)
    own = claim(base, what.worth_pct)
    also = []
    for name in watched:
        told = find(name)
        value = figures(table, name, NAME)
        if told is None or not np.isfinite(value).any():
            continue
        other = replace(base, value=value, per_body_mass=free_of_body_mass(name))
        also.append((told, claim(other)))
    return Compared(table, own, also)


def _nothing_yet(trial: Trial, students: list[int]) -> str:
    before = sorted(b.acquired_at for b in earlier(trial, students))
    if not before:
        return "nothing was thrown in this trial yet"
    sets = "one set" if len(before) == 1 else f"{len(before)} sets"
    day = trial.gym.day(before[0])
    return (
        f"nothing was thrown since {trial.started_on:%-d %B}, from which it counts. Before that there "
        f"{'is' if len(before) == 1 else 'are'} {sets} under its levels: change the trial to count from {day:%-d %B}"
    )


def _in_order(table: pa.Table, what: Asked) -> Strikes:
    """Levels as asked for, whichever was thrown first."""
    have = set(words(table, LEVEL).tolist())
    if have != set(what.levels):
        base = trials(table, NAME, LEVEL, what.measure)[0][1]
        place = [what.levels.index(level) for level in base.levels]
        return replace(base, level=np.array([place[k] for k in base.level], dtype=np.int64), levels=what.levels)
    return trials(table, NAME, LEVEL, what.measure, what.levels)[0][1]


def page(trial: Trial, student: Student | None, what: Asked) -> CompareOut:
    """All that the compare screen shows of a comparison."""
    people = [student.pk] if student else standing(trial)
    told = compare(trial, people, what)
    measure = find(what.measure)
    assert measure is not None
    return CompareOut(
        **summary(trial, told, what, measure).model_dump(),
        measure=what.measure,
        levels=list(what.levels),
        worth_pct=what.worth_pct,
        only=what.only,
        narrow=_ways_to_narrow(trial, people, what) if told.claim.refused else [],
        strikes=_dots(told.table, what),
        blocks=_blocks(told, what),
        also=[_also(m, c) for m, c in told.also],
        planned=_not_as_planned(trial, told.table),
        late=late_in(told.table),
    )


def standing(trial: Trial) -> list[int]:
    """The trial's students who were not removed."""
    return list(trial.students.filter(removed_at__isnull=True).order_by("pk").values_list("pk", flat=True))


def late_in(table: pa.Table) -> LateOut:
    """Recordings among a table's whose figures are behind what is known by now, and how many there are in all."""
    if not table.num_rows:
        return LateOut(recordings=[], late=0, of=0, about_s=0.0)
    recording = np.array(table.column("recording_id").to_pylist(), dtype=np.int64)
    late = np.unique(recording[np.char.endswith(words(table, "calibration"), BEHIND)]).tolist()
    return late_of(late, len(np.unique(recording)))


def late_of(late: list[int], of: int) -> LateOut:
    """Of `of` recordings those that are late: which can be analysed again, and how long that should take."""
    kept = Chunk.objects.filter(recording__in=late).order_by().values_list("recording_id", flat=True).distinct()
    mend = sorted(kept)
    return LateOut(recordings=mend, late=len(late), of=of, about_s=about_s(mend))


def _not_as_planned(trial: Trial, table: pa.Table) -> str:
    """What a coach should know of strikes on another bag than the plan's: one bag throughout is fair all the same."""
    if trial.bag is None or not table.num_rows:
        return ""
    recordings = set(table.column("recording_id").to_pylist())
    others = Bag.objects.filter(versions__recordings__in=recordings).exclude(pk=trial.bag.pk).distinct()
    thrown = " and ".join(f"“{name}”" for name in others.order_by("name").values_list("name", flat=True))
    return f"Planned on “{trial.bag.name}”, thrown on {thrown}." if thrown else ""


def summary(trial: Trial, told: Compared, what: Asked, measure: Measure) -> SummaryOut:
    """The sentence with its claim: all that a list or the class view needs."""
    doc = document(told.claim)
    for note in doc["notes"]:
        if note["kind"] == "disagree":
            note["text"] = _by_name(trial, note["text"])
    pct = doc["ci95_pct"]
    line = say.sentence(told.claim, measure, (pct[0], pct[1]) if pct and pct[0] is not None else None)
    plan = design.Design(tuple(trial.levels), trial.blocks_each, trial.strikes, trial.rest_s)
    a_block = design.minutes(plan) / (len(trial.levels) * trial.blocks_each)
    return SummaryOut(
        sentence=SentenceOut(before=line.before, figures=line.figures, after=line.after),
        in_shares=say.in_shares(measure),
        worse=say.worse(told.claim, measure),
        outcome=say.outcome(told.claim, measure),
        trade=say.trade(told.also),
        needed=say.still_needed(told.claim, trial.strikes, trial.blocks_each, a_block),
        worth_settling=say.worth_settling(told.claim, trial.blocks_each),
        minutes_needed=2.0 * (told.claim.blocks_needed or 0) * a_block,
        claim=ClaimOut.model_validate(doc),
    )


def _by_name(trial: Trial, text: str) -> str:
    """What is said of a trial's students by their labels, as tables have them, by their names."""
    names = dict(trial.students.values_list("label", "name"))
    return re.sub("|".join(rf"\b{re.escape(label)}\b" for label in names), lambda m: names[m[0]], text)


def _also(measure: Measure, c: Claim) -> AlsoOut:
    e = c.effect
    return AlsoOut(
        measure=measure.name,
        effect=short(e.value) if e else None,
        ci95=[short(e.low), short(e.high)] if e else None,
        verdict=c.verdict,
        worse=say.worse(c, measure),
        refused=c.refused,
    )


def _dots(table: pa.Table, what: Asked) -> DotsOut:
    """Columns over the strikes, in order of evenings."""
    if not table.num_rows:
        return DotsOut(id=[], recording=[], student=[], on=[], block=[], level=[], value=[], excluded=[])
    value = figures(table, what.measure, NAME)
    return DotsOut(
        id=table.column("strike_id").to_pylist(),
        recording=table.column("recording_id").to_pylist(),
        student=words(table, "participant").tolist(),
        on=words(table, "session").tolist(),
        block=[int(b) for b in words(table, "block").tolist()],
        level=[what.levels.index(level) for level in words(table, LEVEL).tolist()],
        value=[short(v, 6) for v in value.tolist()],
        excluded=words(table, "excluded").tolist(),
    )


def _blocks(told: Compared, what: Asked) -> list[BlockMeanOut]:
    """Means of blocks by evening; of several students, one after the other."""
    if not told.table.num_rows:
        return []
    counts = np.isfinite(figures(told.table, what.measure, NAME)) & (words(told.table, "excluded") == "")
    who, on = words(told.table, "participant"), words(told.table, "session")
    out = []
    for name, one in (told.claim.students or {str(who[0]): told.claim}).items():
        if one.blocks is None:
            continue
        days = sorted(set(on[counts & (who == name)].tolist()))
        b = one.blocks
        for s, k, place, mean, n in zip(b.session, b.level, b.order, b.mean, b.strikes, strict=True):
            out.append(
                BlockMeanOut(
                    student=name,
                    on=days[int(s)],
                    level=int(k),
                    place=int(place),
                    mean=short(float(mean)),
                    strikes=int(n),
                )
            )
    return out


def _ways_to_narrow(trial: Trial, people: list[int], what: Asked) -> list[NarrowOut]:
    """Where a comparison was refused because something else changed too: the parts in which it did not."""
    table = trial_table(trial, people, [])
    if not table.num_rows or what.only:
        return []
    sessions = words(table, "session")
    out = []
    for column in HELD:
        values = words(table, column)
        if len(set(values.tolist())) > 1:
            for value in dict.fromkeys(values.tolist()):
                evenings = len(set(sessions[values == value].tolist()))
                out.append(NarrowOut(only=f"{column}={value}", name=value or "not noted", evenings=evenings))
            break
    return out


@dataclass(frozen=True, slots=True)
class Source:
    """What claims came from: as long as it is the same, they stand."""

    revisions: dict[int, list[tuple[int, int]]]  #: (recording, revision) pairs of every student in question
    known: str  #: of the gym's kit and people

    def mark(self, trial: Trial, people: list[int]) -> str:
        source = (RULES, trial.pk, trial.version, [(p, self.revisions.get(p, [])) for p in people], self.known)
        return hashlib.sha256(repr(source).encode()).hexdigest()


def kept(trial: Trial, student: Student | None, source: Source) -> dict[str, Any]:
    """The summary of the trial's own comparison, made anew only where its strikes have changed.

    The trial's students and claims were fetched along.
    """
    what = asked(trial, "", "", None, "")
    people = [student.pk] if student else sorted(s.pk for s in trial.students.all() if s.removed_at is None)
    owner = student.pk if student else None
    row = next((c for c in trial.claims.all() if c.student_id == owner and c.asked == what.key), None)
    came_from = source.mark(trial, people)
    if row is not None and row.came_from == came_from:
        return dict(row.document)
    whole = kept_page(trial, student, what)
    return _keep(ClaimRow, trial, student, what.key, came_from, {name: whole[name] for name in SummaryOut.model_fields})


def refresh(students: Iterable[int]) -> None:
    """Make the claims of these students' trials anew where strikes have come: in the queue, so that no screen waits."""
    who = set(students)
    found = Trial.objects.standing().filter(students__in=who).distinct().select_related("gym")
    trials_ = list(found.prefetch_related("students", "claims"))
    for trial in trials_:
        source = source_of([trial])
        people = [s for s in trial.students.all() if s.removed_at is None]
        for student in people:
            if student.pk in who:
                kept(trial, student, source)
        if len(people) > 1:
            kept(trial, None, source)


def kept_page(trial: Trial, student: Student | None, what: Asked) -> dict[str, Any]:
    """The page, made anew only where its strikes have changed. What is worth having moves the verdict alone."""
    people = [student.pk] if student else standing(trial)
    if what.worth_pct != trial.worth_pct:
        usual = kept_page(trial, student, replace(what, worth_pct=trial.worth_pct))
        measure = find(what.measure)
        assert measure is not None
        judged = summary(trial, compare(trial, people, what, watch=False), what, measure)
        return {**usual, **judged.model_dump(mode="json"), "trade": usual["trade"], "worth_pct": what.worth_pct}
    came_from = _source(trial.gym_id, people).mark(trial, people)
    row = ClaimPage.objects.filter(trial=trial, student=student, asked=what.key).first()
    if row is not None and row.came_from == came_from:
        return dict(row.document)
    return _keep(ClaimPage, trial, student, what.key, came_from, page(trial, student, what).model_dump(mode="json"))


def archive(trial: Trial, student: Student | None, what: Asked) -> bytes:
    """The claim, its strikes and its decisions as a zip, with the command that computes it again."""
    people = [student.pk] if student else standing(trial)
    told = kept_page(trial, student, what)
    names = list(dict.fromkeys([what.measure, trial.measure, *trial.watch]))
    decisions = [
        {"on": d.decided_on.isoformat(), "what": d.what, "level": d.level, "reason": d.reason, "said": d.said}
        for d in trial.decisions.filter(student_id__in=people)
    ]
    command = ["agile-strike", "compare", "strikes.csv", "--factor", LEVEL, "--measure", what.measure]
    command += ["--levels", ",".join(cell(level) for level in what.levels)]
    command += ["--worth", f"{what.worth_pct:g}"] if what.worth_pct is not None else []
    command += ["--only", what.only] if what.only else []
    line = told["sentence"]
    words_ = " ".join(p for p in (line["before"], line["figures"], line["after"]) if p)
    said = "\n".join(part for part in (words_, told["trade"], told["planned"]) if part)
    readme = f"{trial}\n\n{said}\n\nTo compute it again:\n\n    {shlex.join(command)}\n"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("README.txt", readme)
        file.writestr("claim.json", json.dumps({**told["claim"], "also": told["also"]}, indent=1) + "\n")
        file.writestr("decisions.json", json.dumps(decisions, indent=1) + "\n")
        file.writestr("strikes.csv", as_csv(trial_table(trial, people, names, doubts=True)))
    return out.getvalue()


def _keep(
    kind: type[ClaimRow | ClaimPage],
    trial: Trial,
    student: Student | None,
    key: str,
    came_from: str,
    made: dict[str, Any],
) -> dict[str, Any]:
    defaults = {"came_from": came_from, "document": made}
    kind.objects.update_or_create(trial=trial, student=student, asked=key, defaults=defaults)
    return made


def source_of(trials_: list[Trial]) -> Source:
    """Of every student in these trials of one gym."""
    return _source(trials_[0].gym_id if trials_ else 0, sorted({s.pk for t in trials_ for s in t.students.all()}))


def _source(gym_id: int, people: list[int]) -> Source:
    out: dict[int, list[tuple[int, int]]] = {p: [] for p in people}
    found = Recording.objects.standing().filter(student_id__in=people).order_by("pk")
    for who, key, revision in found.values_list("student_id", "pk", "revision"):
        out[who].append((key, revision))
    return Source(out, known_of(gym_id))
