"""Whatever is asked of the API: no failure of ours, nothing half-saved, and nothing of another gym's.

Every operation of the schema is asked with bodies and parameters made from it, most of them spoiled somewhere. The
seeds are kept; `AGILE_STRIKE_FUZZ` asks for more of them.
"""

import copy
import csv
import datetime as dt
import io
import json
import os
import random
import re
import string
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from typing import Any
from urllib.parse import urlencode

import pytest
from conftest import signed_in  # the server folder's own
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, transaction
from django.test import Client

from agile_strike.capture.models import Recording
from agile_strike.config.api import api
from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym
from agile_strike.logbook.models import Note
from agile_strike.people.models import Student
from agile_strike.playbook.services import schools
from agile_strike.review.models import Strike, StrikeSet
from agile_strike.trials.models import Trial

pytestmark = pytest.mark.django_db
ROUNDS = int(os.environ.get("AGILE_STRIKE_FUZZ", "8"))
JSON = "application/json"
#: what has broken a page, or would: kept as they were found
NASTY: tuple[Any, ...] = (
    None, "", " ", "\x00", "a\nb", "\ud800", "²", "٣", "=1+1", "../../etc", "x" * 5000, "😀" * 40, "; DROP TABLE x",
    0, -1, 2**31, 2**63, 10**400, -(10**400), 0.1, 1e308, -1e308, 5e-324, float("nan"), float("inf"), float("-inf"),
    True, [], {}, [[]], {"a": {}}, [None], "NaN", "Infinity", "1e999", "0001-01-01", "9999-12-31", "2026-02-30",
    "2026-11-24T18:30:00", "chain_order", "level", "school", "impulse_n_s", "a|b", "bag=", "=", "None",
)  # fmt: skip
CALM = (401, 403, 404, 405, 409, 415, 422, 400)


@cache
def schema() -> dict[str, Any]:
    """Made when it is asked for: every process of a run loads this file, and one runs it."""
    return dict(api.get_openapi_schema())


def operations() -> Iterator[tuple[str, str, dict[str, Any]]]:
    for path, methods in schema()["paths"].items():
        for method, told in methods.items():
            yield method, path, told


def files() -> Iterator[tuple[str, str, dict[str, Any]]]:
    """Operations that the schema does not show: what is saved as a file."""
    for _, router in api._routers:
        for path, view in router.path_operations.items():
            for operation in view.operations:
                if not operation.include_in_schema:
                    names = re.findall(r"{(?:\w+:)?(\w+)}", path)
                    told = [{"in": "path", "name": n, "schema": {"type": "integer"}} for n in names]
                    yield operation.methods[0].lower(), f"/api/{path.lstrip('/')}", {"parameters": told}


STREAM = "/api/live/events"  # never ends: who hears what, and how long, is in test_patience


@cache
def every() -> list[tuple[str, str, dict[str, Any]]]:
    return sorted((o for o in (*operations(), *files()) if o[1] != STREAM), key=lambda o: (o[1], o[0]))


class Maker:
    """Values that a schema would take, spoiled with some chance anywhere."""

    def __init__(self, seed: str, known: dict[str, list[Any]]) -> None:
        self.rng, self.known = random.Random(seed), known

    def value(self, told: dict[str, Any], name: str = "", spoil: float = 0.15) -> Any:
        rng = self.rng
        if rng.random() < spoil:
            return copy.deepcopy(rng.choice(NASTY))
        if "$ref" in told:
            return self.value(schema()["components"]["schemas"][told["$ref"].rsplit("/", 1)[-1]], name, spoil)
        if "anyOf" in told:
            return self.value(rng.choice(told["anyOf"]), name, spoil)
        if name in self.known and (not spoil or rng.random() < 0.8):
            return rng.choice(self.known[name])
        kind = told.get("type")
        if kind == "object":
            out = {k: self.value(v, k, spoil) for k, v in told.get("properties", {}).items() if rng.random() > 0.05}
            if isinstance(extra := told.get("additionalProperties"), dict):
                out |= {f"k{i}": self.value(extra, "", spoil) for i in range(rng.randrange(3))}
            return out | ({"nobody": 1} if rng.random() < spoil / 3 else {})
        if kind == "array":
            size = rng.choice((0, 1, 1, 2, 3))
            return [self.value(told.get("items", {}), name.removesuffix("s"), spoil) for _ in range(size)]
        if kind == "integer":
            return rng.choice((0, 1, 2, 3, 8, 60, 1000))
        if kind == "number":
            return rng.choice((0.0, 0.5, 1.0, 8.0, 45.0, 70.0, -3.0))
        if kind == "boolean":
            return rng.random() < 0.5
        if kind == "null":
            return None
        return rng.choice(
            ("2026-11-03", "orthodox", "rear-straight", "keep", "".join(rng.choices(string.printable, k=9)))
        )


def ask(client: Client, method: str, path: str, told: dict[str, Any], make: Maker, spoil: float = 0.15) -> Any:
    """One request of an operation, with what the maker made of its schema; `spoil`: how often something is not."""
    for parameter in told.get("parameters", []):
        if parameter["in"] == "path":
            given = make.value(parameter["schema"], parameter["name"], spoil / 1.5)
            plain = "".join(c for c in str(given)[:60] if c.isascii() and c.isprintable() and c not in "/?#%\\ ")
            path = path.replace(f"{{{parameter['name']}}}", plain or "1")
    query = {
        p["name"]: str(make.value(p["schema"], p["name"], spoil)).encode("utf-8", "replace").decode()
        for p in told.get("parameters", [])
        if p["in"] == "query" and (p["name"] in make.known if not spoil else make.rng.random() < 0.8)
    }
    content = told.get("requestBody", {}).get("content", {})
    address = f"{path}?{urlencode(query)}" if query else path
    if "multipart/form-data" in content:
        name = make.rng.choice(
            ("a.zip", "a.csv", "a.c3d", "x" * 300 + ".csv", "a." + "y" * 300, "a b;c.csv", "²\u202e.c3d")
        )
        body = make.rng.choice((b"", b"t,a,b\n1,2,3\n", b"PK\x03\x04" * 30, bytes(range(256)) * 4))
        return client.post(address, {"file": SimpleUploadedFile(name, body)})
    if JSON in content:
        text = json.dumps(make.value(content[JSON]["schema"], "", spoil))
        spoilt = make.rng.random() if spoil else 1.0
        text = text[: len(text) // 2] if spoilt < 0.03 else "[" * 3000 if spoilt < 0.04 else text
        return getattr(client, method)(address, text, content_type=JSON)
    return getattr(client, method)(address)


def rows() -> dict[str, int]:
    ours = ("people", "kit", "playbook", "evening", "capture", "review", "trials", "plans", "logbook", "intake", "live")
    models = [m._meta for app in ours for m in apps.get_app_config(app).get_models()]
    each = [f"SELECT '{m.label}', count(*) FROM \"{m.db_table}\"" for m in models]
    with connection.cursor() as cursor:  # one question: it is asked thousands of times
        cursor.execute(" UNION ALL ".join(each))
        return dict(cursor.fetchall())


@pytest.fixture
def known(gym: Gym, student: Student, recording: Recording, coach: Client) -> dict[str, list[Any]]:
    """Things that are there, by the names under which an address or a body asks for them."""
    school = schools(gym)[0]
    trial = Trial.objects.create(
        gym=gym, factor="weight transfer", levels=["even", "rear"], code="rear-straight", measure="impulse_n_s",
        started_on="2026-10-01",
    )  # fmt: skip
    trial.students.add(student)
    strikes = list(recording.strikes.values_list("pk", flat=True))
    bag = recording.bag_version
    assert bag is not None
    return {
        "student_id": [student.pk], "student": [student.pk], "recording_id": [recording.pk], "strike_id": strikes,
        "id": [*strikes[:2], student.pk, recording.pk], "trial_id": [trial.pk], "school_id": [school.pk],
        "bag_id": [bag.bag_id], "version": [1, 1, 1, 0, 2], "measure": ["impulse_n_s", "peak_force_n"],
        "what": ["leaned", "good"], "kind": ["student", "recording", "rests", "injury"], "levels": ["even|rear"],
        "level": ["even", "head"], "stance": ["orthodox"], "set_id": [None], "name": ["Petra Vanek", "Somebody"],
    }  # fmt: skip


@contextmanager
def forgotten() -> Iterator[None]:
    """What happens inside is taken back: every request meets the same gym."""
    with transaction.atomic():
        yield
        transaction.set_rollback(True)


def test_no_request_fails_here_or_leaves_half_of_itself(known: dict[str, list[Any]], gym: Gym) -> None:
    client = signed_in(gym, "fuzz")
    client.raise_request_exception = False
    kept = client.cookies.copy()
    taken = 0
    for method, path, told in every():
        for round_ in range(ROUNDS):
            where = f"{method} {path} {round_}"
            with forgotten():
                client.cookies = kept.copy()
                before = rows() if method != "get" else {}
                answer = ask(client, method, path, told, Maker(where, known))
                assert answer.status_code < 400 or answer.status_code in CALM, (where, answer.content[:300])
                if answer.status_code >= 400:
                    assert not before or rows() == before, (where, answer.content[:300])
                elif "json" in answer.headers.get("Content-Type", "") and answer.content:
                    json.loads(answer.content, parse_constant=lambda word: pytest.fail(f"{word} was told"))
                taken += answer.status_code < 400
    assert taken > 0.2 * len(every()) * ROUNDS  # or it never came past the door


def test_every_address_is_closed_to_strangers_and_to_other_gyms(known: dict[str, list[Any]], stranger: Client) -> None:
    nobody = Client(raise_request_exception=False)
    stranger.raise_request_exception = False
    for method, path, told in every():
        if path == "/api/session":
            continue  # that is where one signs in
        for round_ in range(6):
            where = f"stranger {method} {path} {round_}"
            with forgotten():
                assert ask(nobody, method, path, told, Maker(where, known)).status_code in (401, 403), where
                before = rows()
                answer = ask(stranger, method, path, told, Maker(where, known))
                assert answer.status_code < 500, where
                said = answer.content.decode(errors="replace")
                assert answer.status_code >= 400 or not any(w in said for w in SECRETS) or method != "get", where
                changed = {k for k, n in rows().items() if n != before[k]}
                assert changed <= MADE_BY_ANYBODY, (where, changed)


SECRETS = ("Petra Vanek", "weight transfer, ", "48 kg swivel")
#: a stranger may add to a gym of its own, with whatever words
MADE_BY_ANYBODY = {
    "people.Student", "people.StanceChange", "people.BodyMass", "kit.Bag", "kit.BagVersion", "playbook.School",
    "playbook.Check", "playbook.GymStrike", "capture.Upload", "capture.StoredFile", "capture.StoredPart",
    "capture.PassingPart", "intake.ForeignFile",
}  # fmt: skip


def test_of_a_child_without_consent_no_operation_shows_or_adds_what_was_measured(
    known: dict[str, list[Any]], gym: Gym, student: Student, recording: Recording
) -> None:
    client = signed_in(gym, "matrix")
    client.raise_request_exception = False
    asked = [(m, p, t) for m, p, t in every() if p != "/api/session" and not p.startswith("/api/backups")]
    known |= {
        "ids": [str(known["strike_id"][0])], "code": ["rear-straight"], "evening_id": [recording.session_id],
        "versions": [[1]], "limb": ["right_hand"], "height": ["head"],
    }  # fmt: skip

    def figures_shown() -> dict[str, set[str]]:
        """Of each page, the figures with three decimals or more."""
        out = {}
        for method, path, told in asked:
            if method == "get":
                answer = ask(client, method, path, told, Maker(f"child {path}", known), 0.0)
                out[path] = set(re.findall(r"\d+\.\d{3,}", answer.getvalue().decode(errors="replace")))
        return out

    shown = figures_shown()
    with forgotten():
        Recording.objects.all().delete()
        of_others = set[str]().union(*figures_shown().values())
    measured = {path: figures - of_others for path, figures in shown.items()}
    assert sum(map(bool, measured.values())) >= 5  # with consent the same questions show them, or nothing was asked
    figures = set[str]().union(*measured.values())
    Student.objects.filter(pk=student.pk).update(birth_date=dt.date(2012, 5, 1), consent="withdrawn")
    added = set()
    for method, path, told in asked:
        for round_ in range(2):
            where = f"child {method} {path} {round_}"
            with forgotten():
                before = rows()
                answer = ask(client, method, path, told, Maker(where, known), 0.0)
                said = answer.getvalue().decode(errors="replace")
                assert answer.status_code < 500, (where, said[:300])
                assert not figures & set(re.findall(r"\d+\.\d{3,}", said)), (where, said[:300])
                added |= {(method, path, k) for k, n in rows().items() if n > before[k]}
    assert {k for _, _, k in added} <= KEPT_FOR_A_CHILD, added


FORMULAS = ("=", "+", "-", "@", "\t", "\r")


def test_no_table_that_leaves_holds_a_formula(known: dict[str, list[Any]], gym: Gym, student: Student) -> None:
    """Whatever the words are in which a spreadsheet would be told to do something."""
    evil = '=HYPERLINK("http://x";"Petra")'
    Student.objects.filter(pk=student.pk).update(name=evil)
    Session.objects.filter(student=student).update(gear="+1", notes="-2", soreness="@SUM(A1)")
    StrikeSet.objects.filter(recording__student=student).update(gear="\t=1", levels={"weight transfer": "even"})
    Strike.objects.filter(recording__student=student).update(note=" =1+1")
    Note.objects.create(gym=gym, student=student, day=gym.today, text=evil)
    known |= {"code": ["rear-straight"]}
    client, tables = signed_in(gym, "csv"), 0
    for method, path, told in every():
        answer = ask(client, method, path, told, Maker(path, known), 0.0) if method == "get" else None
        if answer is None or not answer.headers.get("Content-Type", "").startswith("text/csv"):
            assert ".csv" not in path, (path, answer and answer.content)
            continue
        rows_out = list(csv.reader(io.StringIO(answer.content.decode())))
        assert len(rows_out) > 1, path
        tables += 1
        for cell in (cell for row in rows_out for cell in row):
            number = re.fullmatch(r"-?\d+(\.\d+)?(e-?\d+)?", cell)
            assert number or not cell.strip().startswith(FORMULAS), (path, cell)
    assert tables >= 4


#: what is measured of nobody, and what a coach notes for a child's safety
KEPT_FOR_A_CHILD = {
    "people.Student", "people.StanceChange", "people.BodyMass", "people.Mark", "people.Earlier", "kit.Bag",
    "kit.BagVersion", "playbook.School", "playbook.Check", "playbook.GymStrike", "playbook.Entry", "playbook.Written",
    "playbook.CallWord", "trials.Trial", "trials.ClaimPage", "live.Station", "logbook.Note",
}  # fmt: skip
