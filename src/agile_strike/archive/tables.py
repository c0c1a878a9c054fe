"""What of a gym goes into an archive: which tables, which of their rows and columns, and what numbers in them mean.

Rows are numbered anew from 1 in each table, in the order in which they were made, and refer to each other by these
numbers: an archive says the same whichever server it was written by, and goes into any other.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from graphlib import TopologicalSorter
from typing import Any

import pyarrow as pa
from django.apps import apps
from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q

from agile_strike.gym.models import Gym, Member, consented

#: apps whose rows are a gym's own, and what of them stays behind: work of the queue, files that wait for it, what is
#: made anew from the rest, what hubs sent and no evening has taken up yet
APPS = ("people", "kit", "playbook", "evening", "capture", "review", "trials", "plans", "logbook", "reports", "live")
STAYS = (
    "capture.StoredFile", "capture.StoredPart", "capture.PassingPart", "capture.Upload", "trials.Claim",
    "trials.ClaimPage", "live.Packet",
    "review.Guess", "review.NamesLearnt",
)  # fmt: skip
ALSO = ("intake.Profile",)
#: secrets, what is asked anew of the rest, and what points at what stays behind
LEFT_OUT = {
    "reports.Report": ("token",),
    "live.Station": ("token_hash", "simulated_token", "simulated_until"),
    "capture.Recording": ("upload",),
    "capture.AnalysisRun": ("asked_by", "late"),
}
#: from a table to the recording that its rows are of
RECORDED = {
    "capture.Recording": "", "capture.AnalysisRun": "recording__", "capture.Wear": "recording__",
    "capture.Chunk": "recording__", "review.StrikeSet": "recording__", "review.Strike": "recording__",
    "review.Remark": "strike__recording__", "review.StrikeLanes": "strike__recording__", "live.Take": "recording__",
    "live.Mark": "take__recording__",
}  # fmt: skip
#: a take that is not settled is not there yet
ENDED = {"live.Take": Q(settled_at__isnull=False), "live.Mark": Q(take__settled_at__isnull=False)}


def handed_out(way: str = "") -> Q:
    """Recordings that go into an archive: ended, and not of a child whose guardian does not let them be handed out."""
    return Q(consented(f"{way}student__"), **{f"{way}open": False})


TYPES: "dict[type[models.Field[Any, Any]], pa.DataType]" = {
    models.AutoField: pa.int64(),
    models.BigAutoField: pa.int64(),
    models.BigIntegerField: pa.int64(),
    models.IntegerField: pa.int64(),
    models.FloatField: pa.float64(),
    models.BooleanField: pa.bool_(),
    models.CharField: pa.string(),
    models.TextField: pa.string(),
    models.DateField: pa.date32(),
    models.DateTimeField: pa.timestamp("us", tz="UTC"),
    models.JSONField: pa.string(),
    ArrayField: pa.string(),
    models.BinaryField: pa.binary(),
}


@dataclass(frozen=True, slots=True)
class Column:
    name: str  #: as the model has it; without `_id` where it refers to another table
    field: "models.Field[Any, Any]"
    type: pa.DataType
    refers: str = ""  #: label of the table whose numbers it holds
    who: bool = False  #: a coach, by the name they sign in with

    @property
    def column(self) -> str:
        return str(self.field.column)


@dataclass(frozen=True, slots=True)
class Table:
    label: str  #: `app.Model`
    model: type[models.Model]
    columns: tuple[Column, ...]
    way: str  #: from the model to its gym, as a query says it

    @property
    def file(self) -> str:
        return self.label.replace(".", "-").lower()

    @property
    def pk(self) -> Column:
        return next(c for c in self.columns if c.field.primary_key)

    @property
    def numbered(self) -> bool:
        """Whether its rows have numbers of their own, and not those of another table's rows."""
        return not self.pk.refers

    @property
    def binary(self) -> tuple[str, ...]:
        return tuple(c.name for c in self.columns if pa.types.is_binary(c.type))

    @property
    def schema(self) -> pa.Schema:
        return pa.schema([pa.field(c.name, c.type) for c in self.columns])

    def rows(self, gym: Gym) -> "models.QuerySet[models.Model]":
        way = RECORDED.get(self.label)
        whole = Q() if way is None else handed_out(way)
        return self.model._base_manager.filter(whole, ENDED.get(self.label, Q()), **{self.way: gym})


def tables() -> tuple[Table, ...]:
    """All tables of an archive, those that others refer to first."""
    own = {m._meta.label: m for m in _models()}
    order: TopologicalSorter[str] = TopologicalSorter()
    for label, model in own.items():
        # a recording and the analysis that it shows refer to each other: the run is of the recording
        back = {"analysis"} if label == "capture.Recording" else set()
        needs = [f.related_model._meta.label for f in _fields(model) if f.is_relation and f.name not in back]  # type: ignore[union-attr]
        order.add(label, *(n for n in needs if n in own and n != label))
    return tuple(_table(own[label], own) for label in _stable(order))


def _stable(order: "TopologicalSorter[str]") -> Iterator[str]:
    order.prepare()
    while order.is_active():
        ready = sorted(order.get_ready())
        yield from ready
        order.done(*ready)


def _models() -> Iterator[type[models.Model]]:
    for app in APPS:
        for model in apps.get_app_config(app).get_models(include_auto_created=True):
            if model._meta.label not in STAYS:
                yield model
    for label in ALSO:
        yield apps.get_model(label)


def _fields(model: type[models.Model]) -> list["models.Field[Any, Any]"]:
    left = LEFT_OUT.get(model._meta.label, ())
    return [f for f in model._meta.local_fields if f.related_model is not Gym and f.name not in left]


def _table(model: type[models.Model], own: dict[str, type[models.Model]]) -> Table:
    columns = []
    for field in _fields(model):
        target = field.related_model
        if target is None:
            columns.append(Column(field.name, field, TYPES[type(field)]))
        elif target._meta.label == settings.AUTH_USER_MODEL:
            columns.append(Column(field.name, field, pa.string(), who=True))
        else:
            assert target._meta.label in own, f"{model._meta.label}.{field.name} refers to what stays behind"
            columns.append(Column(field.name, field, pa.int64(), refers=target._meta.label))
    return Table(model._meta.label, model, tuple(columns), _way(model))


def _way(model: type[models.Model]) -> str:
    """From a row to its gym: its own column, else through the first row that it can't be without."""
    for field in model._meta.local_fields:
        if field.related_model is Gym:
            return field.name
    for field in model._meta.local_fields:
        if field.is_relation and not field.null and field.related_model._meta.app_label in APPS:  # type: ignore[union-attr]
            return f"{field.name}__{_way(field.related_model)}"  # type: ignore[arg-type]
    raise LookupError(f"{model._meta.label} belongs to no gym")


Renumber = Callable[[str, int], int]  #: of a table's row, to another number; LookupError where there is none


def _calibrations(value: Any, other: Renumber) -> Any:
    return {place: other("kit.Calibration", key) for place, key in value.items()}


def _wishes(value: Any, other: Renumber) -> Any:
    return [w | {"key": str(other("trials.Trial", int(w["key"])))} if _is_trial(w) else w for w in value]


def _is_trial(what: dict[str, Any]) -> bool:
    return what.get("kind") == "trial" and str(what.get("key", "")).isdecimal()


#: rows that are referred to within a column of JSON
WITHIN: dict[tuple[str, str], Callable[[Any, Renumber], Any]] = {
    ("capture.AnalysisRun", "calibrations"): _calibrations,
    ("plans.Week", "wishes"): _wishes,
}
#: rows that are referred to by a column of their own, whose table another column says
BY_KIND: dict[tuple[str, str], tuple[str, dict[str, str]]] = {
    ("people.Earlier", "key"): (
        "of",
        {"evening": "evening.Session", "mark": "people.Mark", "note": "logbook.Note"},
    ),
    ("plans.Part", "key"): ("kind", {"trial": "trials.Trial"}),
}


def coaches(gym: Gym, used: set[str]) -> list[dict[str, str]]:
    """Who wrote what is in an archive; no passwords."""
    rows = Member.objects.filter(Q(gym=gym) | Q(other=gym)).select_related("user")
    known = {m.user.username: m for m in rows}
    return [
        {
            "username": name,
            "name": known[name].name if name in known else name,
            "role": known[name].role if name in known else Member.Role.COACH,
        }
        for name in sorted(used | {m.user.username for m in rows if m.gym_id == gym.pk})
    ]
