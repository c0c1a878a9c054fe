"""Strikes: their figures and curves, and what a coach says of them."""

from collections.abc import Sequence
from typing import Any, cast

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from numpy.typing import NDArray

from agile_strike.capture.models import Recording
from agile_strike.capture.shown import recording_of
from agile_strike.core.measures.plain import PLAIN, USUAL, USUAL_OF_A_CHILD
from agile_strike.core.registry import (
    FLAG_MEANINGS,
    GROWS_WITH_MASS,
    MEASURES,
    NUMERIC,
    PER_BODY_MASS,
    find,
)
from agile_strike.core.strikes import LIMBS
from agile_strike.core.vocabulary import spoken_name
from agile_strike.evening.services import SetText
from agile_strike.formats.tabular import as_csv
from agile_strike.gym.asking import CSV, as_json, attached, found, gym, user
from agile_strike.gym.bodies import LARGEST_ID, Changed, Problem
from agile_strike.people.models import Student
from agile_strike.playbook import entries
from agile_strike.review import draw, drills, evening, export, judge, names, say
from agile_strike.review import schemas as s
from agile_strike.review.models import Guess, NamesLearnt, Remark, Strike, StrikeSet

router = Router()
VALUE_DIGITS, SD_DIGITS = 7, 5  # significant
NO_GUESS = ("", 0)
PARQUET = "application/vnd.apache.parquet"


@router.get("/measures", response=s.Registry)
def measures(request: HttpRequest) -> s.Registry:
    return s.Registry(
        measures=[s.MeasureOut.from_orm(MEASURES[n]) for members in PLAIN.values() for n in members],
        groups=list(PLAIN),
        usual=list(USUAL),
        usual_of_a_child=list(USUAL_OF_A_CHILD),
        per_body_mass=[s.MeasureOut.from_orm(m) for n in GROWS_WITH_MASS if (m := find(n + PER_BODY_MASS))],
        flags=FLAG_MEANINGS,
        exclusion_reasons=list(say.REASONS),
        remarks=entries.remarks(gym(request)),
        limbs=list(LIMBS),
        factors=entries.factors(gym(request)),
    )


@router.get("/recordings/{recording_id}/strikes", response={200: s.Strikes, 422: Problem})
def strikes(request: HttpRequest, recording_id: int) -> HttpResponse:
    own = gym(request)
    recording_of(own, Recording.objects.for_gym(own), recording_id)
    told = ("id", "number", "contact_s", "kind", "level", "set_id", "chain_order", "launch_ms", "flags", "version")
    wanted = (*told, "limb", "relabelled_limb", "excluded_reason", "note", *NUMERIC, *(f"{n}_sd" for n in NUMERIC))
    rows = list(Strike.objects.filter(recording_id=recording_id).order_by("number").values_list(*wanted))
    columns: dict[str, Any] = (
        dict(zip(wanted, zip(*rows, strict=True), strict=True)) if rows else dict.fromkeys(wanted, ())
    )
    sets = list(StrikeSet.objects.filter(recording_id=recording_id).select_related("school"))
    values = {row.pk: row.value for row in sets}
    remarks: dict[int, list[str]] = {}
    for strike_id, what in Remark.objects.filter(strike__recording_id=recording_id).values_list("strike_id", "what"):
        remarks.setdefault(strike_id, []).append(what)
    looks = Guess.objects.filter(strike__recording_id=recording_id, strike__set__isnull=True)
    guesses = {key: (code, round(100 * sure)) for key, code, sure in looks.values_list("strike_id", "code", "sure")}
    had = [n for n in NUMERIC if any(v is not None for v in columns[n])]
    # validated by the database's own types: five thousand strikes are not worth a second check
    return as_json(
        {
            **{n: columns[n] for n in told},
            "limb": [b or a for a, b in zip(columns["limb"], columns["relabelled_limb"], strict=True)],
            "planned": [values.get(i, "") for i in columns["set_id"]],
            "remarks": [remarks.get(i, []) for i in columns["id"]],
            "notes": columns["note"],
            "guess": [guesses.get(i, NO_GUESS)[0] for i in columns["id"]],
            "guess_pct": [guesses.get(i, NO_GUESS)[1] for i in columns["id"]],
            "sets": [s.SetOut.from_orm(row).model_dump() for row in sets],
            "excluded": columns["excluded_reason"],
            "values": {n: _short(columns[n], VALUE_DIGITS) for n in had},
            "sds": {n: _short(columns[f"{n}_sd"], SD_DIGITS) for n in had},
        }
    )


def _short(column: Sequence[float | None], significant: int) -> list[float]:
    """Figures as long as a screen shows them, NaN for absent ones: five thousand strikes have half a million."""
    values = np.array(column, dtype=np.float64)
    with np.errstate(divide="ignore", invalid="ignore"):
        size = 10.0 ** (significant - 1 - np.floor(np.log10(np.abs(values))))
        short: NDArray[np.float64] = np.where(np.isfinite(size), np.round(values * size) / size, values)
    return cast(list[float], short.tolist())


# --- what a coach says


@router.post("/strikes/label", response={200: s.SetOut, 422: Problem, 409: Problem})
def label(request: HttpRequest, what: s.LabelIn) -> StrikeSet:
    text = SetText(**what.model_dump(exclude={"ids", "versions"}))
    return say.label(gym(request), what.seen, text)


@router.post("/strikes/label/undo", response={200: Changed, 422: Problem, 409: Problem})
def undo_label(request: HttpRequest, what: s.PutBackIn) -> Changed:
    seen = {b.id: b.version for b in what.strikes}
    before = {b.id: (b.set_id, b.limb) for b in what.strikes}
    return Changed(changed=say.put_back(gym(request), seen, before))


@router.post("/strikes/names", response={200: Changed, 422: Problem, 409: Problem})
def take_names(request: HttpRequest, what: s.Chosen) -> Changed:
    """Call strikes what they look like, all of them or none."""
    return Changed(changed=names.take(gym(request), what.seen))


@router.get("/names", response=s.NamesOut)
def names_learnt(request: HttpRequest) -> s.NamesOut:
    """How well names are told apart here."""
    row = NamesLearnt.objects.for_gym(gym(request)).first()
    if row is None:
        return s.NamesOut(made_at=None, parts=[])
    parts = [
        s.NamesOfPart(part=part, **told | {"names": [spoken_name(n) for n in told["names"]]})
        for part, told in row.told.items()
    ]
    return s.NamesOut(made_at=row.made_at, parts=parts)


@router.post("/strikes/exclude", response={200: Changed, 422: Problem, 409: Problem})
def exclude(request: HttpRequest, what: s.ExcludeIn) -> Changed:
    return Changed(changed=say.exclude(gym(request), what.seen, what.reason, user(request)))


@router.post("/strikes/restore", response={200: Changed, 422: Problem, 409: Problem})
def restore(request: HttpRequest, what: s.RestoreIn) -> Changed:
    return Changed(changed=say.restore(gym(request), what.seen))


@router.post("/strikes/{strike_id}/remarks", response={200: Changed, 422: Problem})
def remark(request: HttpRequest, strike_id: int, what: s.RemarkIn) -> Changed:
    return Changed(changed=int(say.remark(gym(request), strike_id, what.what, what.on, user(request))))


@router.put("/strikes/{strike_id}/note", response={200: Changed, 422: Problem, 409: Problem})
def note(request: HttpRequest, strike_id: int, what: s.NoteIn) -> Changed:
    say.write_note(gym(request), strike_id, what.text, what.version)
    return Changed(changed=1)


# --- one strike


@router.get("/strikes/{strike_id}", response={200: s.StrikePage, 422: Problem})
def strike_page(request: HttpRequest, strike_id: int, under: Query[str] = "") -> draw.StrikePage:
    """One strike, opened: its curves from the floor up, its force over time, its school's judgement. `under` is empty,
    `set` for the mean of its set, or the id of another strike."""
    return draw.page(gym(request), strike_id, under)


@router.get("/strikes/{strike_id}/absent", response={200: dict[str, str], 422: Problem})
def absent(request: HttpRequest, strike_id: int) -> dict[str, str]:
    return judge.absent_of(gym(request), strike_id)


@router.get("/curves", response={200: list[s.CurveOut], 422: Problem})
def curves(request: HttpRequest, ids: Query[list[int]]) -> list[draw.ForceCurve]:
    return draw.force_curves(gym(request), [i for i in ids if 0 < i <= LARGEST_ID])


# --- an evening


@router.get("/evenings/{evening_id}", response=s.EveningPage)
def evening_page(request: HttpRequest, evening_id: int) -> evening.EveningPage:
    return evening.page(gym(request), evening_id)


@router.get("/evenings/{evening_id}/drills", response=s.SeenToDrillOut)
def evening_drills(request: HttpRequest, evening_id: int) -> drills.SeenToDrill:
    """What to drill after this evening, three at most."""
    return drills.of_evening(gym(request), evening_id)


@router.get("/students/{student_id}/drills", response=s.SeenToDrillOut)
def student_drills(request: HttpRequest, student_id: int) -> drills.SeenToDrill:
    """The same over the student's last four weeks with strikes."""
    own = gym(request)
    return drills.of_weeks(own, found(Student.objects.for_gym(own), student_id, "student"))


# --- out of the house


@router.get("/recordings/{recording_id}/strikes.csv", include_in_schema=False)
def strikes_csv(request: HttpRequest, recording_id: int) -> HttpResponse:
    row = handed_out(request, recording_id)
    return attached(as_csv(export.table(row)), CSV, f"{file_name(row)}-strikes.csv")


@router.get("/recordings/{recording_id}/strikes.parquet", include_in_schema=False)
def strikes_parquet(request: HttpRequest, recording_id: int) -> HttpResponse:
    row = handed_out(request, recording_id)
    return attached(export.as_parquet(row), PARQUET, f"{file_name(row)}-strikes.parquet")


def handed_out(request: HttpRequest, recording_id: int) -> Recording:
    """A recording to hand out: what may not be recorded of a child is not handed out either."""
    own = gym(request)
    return recording_of(
        own, Recording.objects.for_gym(own).select_related("student", "analysis", "bag_version__bag"), recording_id
    )


def file_name(row: Recording) -> str:
    return f"{row.student.label}-{row.acquired_at:%Y-%m-%d}-{row.task}"
