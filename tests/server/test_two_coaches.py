"""Two coaches at two tablets: nothing that one of them was told is saved is lost without a word."""

import os
import random
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from asking import seen, send, values_of  # the server folder's own
from conftest import signed_in  # the server folder's own
from django.db import connection, connections
from django.test import Client

from agile_strike.capture.models import Recording
from agile_strike.core.vocabulary import STRIKE_CODES
from agile_strike.gym.models import Gym
from agile_strike.intake.again import analyse_again
from agile_strike.people.models import Student
from agile_strike.people.services import add_student
from agile_strike.playbook.services import schools
from agile_strike.review import say
from agile_strike.review.models import Strike, StrikeSet
from agile_strike.trials.models import CalledBlock, Trial

JSON = "application/json"
MONDAY = "2030-01-07"  # to come, whenever this runs
INTERLEAVINGS = int(os.environ.get("AGILE_STRIKE_INTERLEAVINGS", "40"))
STEPS = 14


PAGES = ("strikes", "page", "school", "bag", "text", "week")
PAGE_OF = {
    "note": "strikes", "code": "strikes", "out": "strikes", "mass": "page", "stance": "page", "belief": "school",
    "gain": "bag", "strikes": "text", "ended": "text", "week": "week",
}  # fmt: skip
MIRROR = {"kind": "drill", "name": "Mirror", "evenings": 2, "minutes": 5.0, "key": "mirror"}


class Coach:
    """A coach with the pages as they were when last looked at: what is sent comes from them."""

    def __init__(self, client: Client, student: Student, recording: Recording, trial: Trial) -> None:
        self.client, self.student, self.recording, self.trial = client, student, recording, trial
        self.look()

    def get(self, path: str) -> Any:
        return self.client.get(f"/api/{path}").json()

    def look(self, *pages: str) -> None:
        for page in pages or PAGES:
            setattr(self, page, self.shown(page))

    def shown(self, page: str) -> Any:
        if page == "strikes":
            return self.get(f"recordings/{self.recording.pk}/strikes")
        if page == "page":
            return self.get(f"students/{self.student.pk}")
        if page == "text":
            return next(t for t in self.get("trials") if t["id"] == self.trial.pk)
        if page == "week":
            return self.get(f"students/{self.student.pk}/plan?monday={MONDAY}")
        return self.get(f"{page}s")[0]

    # --- verbs: each returns what it would change, how it stood on the page, how it shall stand, and the answer

    def note(self, rng: random.Random) -> Any:
        i = rng.randrange(3)
        key, text = self.strikes["id"][i], f"note {rng.random()}"
        body = {"text": text, "version": self.strikes["version"][i]}
        return ("note", key), self.strikes["notes"][i], text, send(self.client, "put", f"strikes/{key}/note", body)

    def label(self, rng: random.Random) -> Any:
        i, code = rng.randrange(3), rng.choice(STRIKE_CODES)
        key = self.strikes["id"][i]
        body = {"ids": [key], "versions": [self.strikes["version"][i]], "code": code}
        return ("code", key), self.code(i), code, send(self.client, "post", "strikes/label", body)

    def back(self, rng: random.Random) -> Any:
        """The undo of a labelling, to the strike's first set."""
        i = rng.randrange(3)
        key = self.strikes["id"][i]
        first = StrikeSet.objects.filter(recording=self.recording, by_coach=False).order_by("pk")[0]
        body = {"id": key, "set_id": first.pk, "limb": "", "version": self.strikes["version"][i]}
        answer = send(self.client, "post", "strikes/label/undo", {"strikes": [body]})
        return ("code", key), self.code(i), first.code, answer

    def out(self, rng: random.Random) -> Any:
        i = rng.randrange(3)
        key, was = self.strikes["id"][i], self.strikes["excluded"][i]
        body = {"ids": [key], "versions": [self.strikes["version"][i]]}
        if was:
            return ("out", key), was, "", send(self.client, "post", "strikes/restore", body)
        reason = f"because {rng.randrange(1000)}"
        return ("out", key), was, reason, send(self.client, "post", "strikes/exclude", {**body, "reason": reason})

    def weigh(self, rng: random.Random) -> Any:
        day = "2026-11-10"
        was = next((m["mass_kg"] for m in self.page["masses"] if m["measured_on"] == day), None)
        kg = float(rng.randrange(50, 90))
        body = {"measured_on": day, "mass_kg": kg, "was_kg": was}
        return ("mass", day), was, kg, send(self.client, "post", f"students/{self.student.pk}/masses", body)

    def stand(self, rng: random.Random) -> Any:
        stance = rng.choice(("orthodox", "southpaw"))
        body = {"stance": stance, "version": self.page["version"]}
        answer = send(self.client, "post", f"students/{self.student.pk}/stance", body)
        return ("stance", 0), self.page["stance"], stance, answer

    def believe(self, rng: random.Random) -> Any:
        belief = f"belief {rng.random()}"
        body = {k: v for k, v in self.school.items() if k != "id"} | {"belief": belief}
        answer = send(self.client, "put", f"schools/{self.school['id']}", body)
        return ("belief", 0), self.school["belief"], belief, answer

    def hang(self, rng: random.Random) -> Any:
        gain = round(rng.uniform(0.9, 1.1), 4)
        body = {"id": self.bag["id"], "version": self.bag["version"], "name": self.bag["name"]}
        answer = send(self.client, "post", "bags", {**body, "values": {**values_of(self.bag), "impulse_gain": gain}})
        return ("gain", 0), self.bag["current"]["impulse_gain"], gain, answer

    def plan(self, rng: random.Random) -> Any:
        strikes = rng.randrange(4, 20)
        told = ("id", "started_on", "ended_on", "decisions")
        body = {k: v for k, v in self.text.items() if k not in told} | {"strikes": strikes}
        answer = send(self.client, "put", f"trials/{self.trial.pk}", body)
        return ("strikes", 0), self.text["strikes"], strikes, answer

    def end(self, rng: random.Random) -> Any:
        ended = self.text["ended_on"] is None
        body = {"ended": ended, "version": self.text["version"]}
        answer = send(self.client, "post", f"trials/{self.trial.pk}/end", body)
        return ("ended", 0), self.text["ended_on"] is not None, ended, answer

    def propose(self, rng: random.Random) -> Any:
        """The solver's week takes the place of all that hands made of it."""
        wish = MIRROR | {"minutes": float(rng.randrange(5, 20))}
        free = [{"day": d, "minutes": 60.0} for d in (0, 2, 4)]
        body = {"monday": MONDAY, "wishes": [wish], "free": free, "version": self.week["version"]}
        return self._planned(send(self.client, "put", f"students/{self.student.pk}/plan", body))

    def unseen(self, rng: random.Random) -> Any:
        n = rng.randrange(1000)
        body = {"monday": MONDAY, "hands": n, "kicks": None, "version": self.week["version"]}
        return self._planned(send(self.client, "put", f"students/{self.student.pk}/plan/unseen", body))

    def shift(self, rng: random.Random) -> Any:
        """A part moved, had twice or taken off, as its board showed it."""
        if not self.week["parts"]:
            return self.propose(rng)
        part, verb = rng.choice(self.week["parts"])["id"], rng.choice(("move", "copy", "drop"))
        version = self.week["version"]
        if verb == "drop":
            return self._planned(self.client.delete(f"/api/plan-parts/{part}?version={version}"))
        body = {"day": rng.randrange(7), "version": version}
        method, path = ("put", "") if verb == "move" else ("post", "/copy")
        return self._planned(send(self.client, method, f"plan-parts/{part}{path}", body))

    def _planned(self, answer: Any) -> Any:
        """The whole week stands as the last one left it."""
        was = plain(self.week)
        if answer.status_code == 404:  # what was taken off meanwhile can't be moved, and that is said
            answer.status_code = 409
            return ("week", 0), was, was, answer
        return ("week", 0), was, plain(answer.json()) if answer.status_code == 200 else was, answer

    def code(self, i: int) -> str:
        return str(self.strikes["planned"][i].split(";")[0])


VERBS: tuple[Callable[[Coach, random.Random], Any], ...] = (
    Coach.note, Coach.label, Coach.back, Coach.out, Coach.weigh, Coach.stand, Coach.believe, Coach.hang, Coach.plan,
    Coach.end, Coach.propose, Coach.unseen, Coach.shift,
)  # fmt: skip


def plain(week: Any) -> Any:
    """What two coaches can change of a week."""
    parts = sorted((p["day"], p["name"], p["minutes"], p["id"]) for p in week["parts"])
    return (week["unseen_hands"], [w["minutes"] for w in week["wishes"]], parts)


@pytest.fixture
def trial(gym: Gym, student: Student) -> Trial:
    made = Trial.objects.create(
        gym=gym, factor="weight transfer", levels=["even", "rear"], code="rear-straight", measure="impulse_n_s",
        started_on="2026-10-01",
    )  # fmt: skip
    made.students.add(student)
    return made


@pytest.mark.django_db
def test_no_acknowledged_change_is_lost_unsaid(
    gym: Gym, student: Student, recording: Recording, trial: Trial, coach: Client
) -> None:
    """Whoever is told that a change is saved had seen what it took the place of; it stands as the last one left it."""
    schools(gym)
    other = signed_in(gym, "rafe")
    both = [Coach(client, student, recording, trial) for client in (coach, other)]
    stands: dict[Any, Any] = {}
    said = {"saved": 0, "told": 0}
    for seed in range(INTERLEAVINGS):
        rng = random.Random(f"interleaving {seed}")
        for step in range(STEPS):
            who = rng.choice(both)
            if rng.random() < 0.35:
                who.look(rng.choice(PAGES))
                continue
            what, was, now, answer = rng.choice(VERBS)(who, rng)
            where = (seed, step, what, answer.content[:200])
            if answer.status_code == 409:
                said["told"] += 1
                assert any(word in answer.json()["message"] for word in ("meanwhile", "part of the plan")), where
                who.look(PAGE_OF[what[0]])  # as the page does
                continue
            assert answer.status_code == 200, where
            said["saved"] += 1
            assert stands.get(what, was) in (was, now), (*where, "was changed unseen")
            stands[what] = now
    fresh = Coach(coach, student, recording, trial)
    shown = {
        **{("note", k): n for k, n in zip(fresh.strikes["id"], fresh.strikes["notes"], strict=True)},
        **{("code", k): fresh.code(i) for i, k in enumerate(fresh.strikes["id"])},
        **{("out", k): n for k, n in zip(fresh.strikes["id"], fresh.strikes["excluded"], strict=True)},
        **{("mass", m["measured_on"]): m["mass_kg"] for m in fresh.page["masses"]},
        ("stance", 0): fresh.page["stance"],
        ("belief", 0): fresh.school["belief"],
        ("gain", 0): fresh.bag["current"]["impulse_gain"],
        ("strikes", 0): fresh.text["strikes"],
        ("ended", 0): fresh.text["ended_on"] is not None,
        ("week", 0): plain(fresh.week),
    }
    assert {k: shown[k] for k in stands} == stands
    assert min(said.values()) > INTERLEAVINGS  # both were to be seen, or nothing was tested


@pytest.mark.django_db
def test_a_block_called_twice_goes_on_and_an_ended_one_stays_ended(
    trial: Trial, student: Student, coach: Client, gym: Gym
) -> None:
    other = signed_in(gym, "rafe")
    body = {"student_id": student.pk, "place": 0}
    send(coach, "post", f"trials/{trial.pk}/blocks", body)
    block = CalledBlock.objects.get()
    send(other, "post", f"trials/{trial.pk}/blocks", body)
    assert CalledBlock.objects.get().planned.began_at == block.planned.began_at
    send(coach, "post", f"called-blocks/{block.pk}/end")
    ended = CalledBlock.objects.get().planned.ended_at
    send(other, "post", f"called-blocks/{block.pk}/end")
    send(other, "post", f"trials/{trial.pk}/blocks", body)
    assert CalledBlock.objects.get().planned.ended_at == ended


@pytest.mark.django_db
def test_a_strike_goes_back_into_no_set_of_another_recording(recording: Recording, coach: Client, gym: Gym) -> None:
    elsewhere = Recording.objects.create(
        gym=gym, student=recording.student, task="x", acquired_at=recording.acquired_at, length_s=1.0, rate_hz=1.0,
        checksum="another", session=recording.session,
    )  # fmt: skip
    foreign = StrikeSet.objects.create(recording=elsewhere, code="lead-hook")
    strike = recording.strikes.all()[0]
    body = {"id": strike.pk, "set_id": foreign.pk, "limb": "", "version": 1}
    answer = send(coach, "post", "strikes/label/undo", {"strikes": [body]})
    assert answer.status_code == 422
    assert Strike.objects.get(pk=strike.pk).set_id == strike.set_id


def in_threads(*work: Callable[[], Any]) -> list[Any]:
    """Each in a thread of its own, begun together, with its own connection to the database."""
    begin = threading.Barrier(len(work))

    def one(do: Callable[[], Any]) -> Any:
        begin.wait(10)
        try:
            return do()
        finally:
            connections.close_all()

    with ThreadPoolExecutor(len(work)) as pool:
        return [f.result(60) for f in [pool.submit(one, do) for do in work]]


@pytest.fixture
def _no_jobs_left(transactional_db: None) -> Any:
    yield
    with connection.cursor() as cursor:
        cursor.execute("TRUNCATE procrastinate_jobs CASCADE")


@pytest.mark.django_db(transaction=True)
@pytest.mark.usefixtures("_no_jobs_left")
def test_analysing_again_during_two_hundred_notes_keeps_two_hundred(recording: Recording, gym: Gym) -> None:
    ids = list(recording.strikes.order_by("number").values_list("pk", flat=True))
    kept: dict[int, str] = {}

    def write() -> None:
        for k in range(200):
            key = ids[k % len(ids)]
            version = Strike.objects.values_list("version", flat=True).get(pk=key)
            say.write_note(gym, key, f"note {k}", version)
            kept[key] = f"note {k}"

    def again() -> int:
        times = 0
        while len(kept) < len(ids) or times < 3:
            analyse_again(gym, recording.pk)
            times += 1
        return times

    _, times = in_threads(write, again)
    assert times >= 3
    assert dict(Strike.objects.filter(pk__in=ids).values_list("pk", "note")) == kept
    assert set(Strike.objects.filter(pk__in=ids).values_list("version", flat=True)) == {1 + 200 // len(ids)}


@pytest.mark.django_db(transaction=True)
@pytest.mark.usefixtures("_no_jobs_left")
def test_twelve_students_of_one_name_at_once_are_twelve_with_labels_of_their_own(gym: Gym) -> None:
    made = in_threads(*[lambda: add_student(gym, "Wren Okafor", "orthodox", None, None, gym.today)] * 12)
    assert len({s.label for s in made}) == 12


@pytest.mark.django_db(transaction=True)
@pytest.mark.usefixtures("_no_jobs_left")
def test_of_two_who_throw_the_same_strike_out_at_once_one_is_told(recording: Recording, gym: Gym) -> None:
    key = recording.strikes.all()[0].pk
    clients = [signed_in(gym, name) for name in ("a", "b")]
    chosen = seen([key])
    answers = in_threads(
        *[
            lambda c=c, r=r: send(c, "post", "strikes/exclude", {**chosen, "reason": r}).status_code  # type: ignore[misc]
            for c, r in zip(clients, ("glancing", "unit slipped"), strict=True)
        ]
    )
    assert sorted(answers) == [200, 409]
