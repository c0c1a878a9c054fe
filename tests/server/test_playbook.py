"""The playbook: ours until the gym writes, every version kept, and what is written holds wherever it is used."""

import datetime as dt
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.db import IntegrityError, transaction
from django.test import Client
from trial_makers import evening as thrown  # the server folder's own

from agile_strike.core.drills.ladders import LADDERS
from agile_strike.core.playbook.cards import CARDS
from agile_strike.core.playbook.points import POINTS
from agile_strike.core.playbook.schools import fits
from agile_strike.core.registry import MEASURES
from agile_strike.core.vocabulary import REMARKS, STRIKE_CODES
from agile_strike.evening.models import Drilled, Looked
from agile_strike.gym.models import Gym
from agile_strike.kit.models import BagVersion
from agile_strike.people.models import Student
from agile_strike.playbook.models import Entry
from agile_strike.review.models import Remark, Strike

pytestmark = pytest.mark.django_db


def book(coach: Client, kind: str) -> dict[str, dict[str, Any]]:
    return {e["key"]: e for e in coach.get("/api/playbook").json() if e["kind"] == kind}


def write(coach: Client, content: dict[str, Any], key: str = "", version: int = 0) -> Any:
    return send(coach, "post", "playbook", {"content": content, "key": key, "version": version})


def put_back(coach: Client, kind: str, key: str, to: int, version: int) -> Any:
    return send(coach, "post", "playbook/back", {"kind": kind, "key": key, "to": to, "version": version})


def off(coach: Client, kind: str, key: str, version: int) -> Any:
    return send(coach, "post", "playbook/off", {"kind": kind, "key": key, "version": version})


def test_every_strike_has_a_card_and_what_cards_name_is_there() -> None:
    assert [code for code in STRIKE_CODES if not any(fits(code, key) for key in CARDS)] == []
    assert [key for key in CARDS if not any(fits(code, key) for code in STRIKE_CODES)] == []
    named = {m for c in CARDS.values() for m in c.measures} | {m for p in POINTS.values() for m in p.measures}
    assert named <= set(MEASURES)


def test_an_entry_is_written_taken_back_and_written_by_one_coach_at_a_time(coach: Client) -> None:
    mirror = book(coach, "drill")["mirror"]
    assert (mirror["version"], mirror["shipped"], mirror["off"]) == (0, True, False)
    longer = {**mirror["content"], "dose": "5 minutes"}
    assert write(coach, longer, "mirror").json()["version"] == 1
    late = write(coach, {**longer, "dose": "1 minute"}, "mirror")
    assert (late.status_code, "was written anew" in late.json()["message"]) == (409, True)
    assert write(coach, {**longer, "dose": "6 minutes"}, "mirror", 1).json()["version"] == 2
    told = coach.get("/api/playbook/versions?kind=drill&key=mirror").json()
    assert [(v["version"], v["state"], v["by"], v["content"]["dose"]) for v in told] == [
        (2, "own", "coach", "6 minutes"),
        (1, "own", "coach", "5 minutes"),
    ]
    assert put_back(coach, "drill", "mirror", 1, 2).json()["content"]["dose"] == "5 minutes"
    assert put_back(coach, "drill", "mirror", 0, 3).json()["content"]["dose"] == LADDERS["mirror"].dose
    assert put_back(coach, "drill", "mirror", 9, 4).status_code == 404
    assert Entry.objects.count() == 4


def test_one_gym_writes_nothing_for_another(coach: Client, stranger: Client) -> None:
    point = book(coach, "point")["breath"]["content"]
    write(coach, {**point, "look_for": "Hear it."}, "breath")
    made = write(coach, {**point, "name": "Shoes"}).json()
    assert book(stranger, "point")["breath"]["content"]["look_for"] == POINTS["breath"].look_for
    assert made["key"] not in book(stranger, "point")
    assert off(stranger, "point", made["key"], 1).status_code == 404


@pytest.mark.parametrize(
    ("kind", "key", "change", "says"),
    [
        ("drill", "mirror", {"steps": []}, "A drill needs a step at least"),
        ("strike", "round", {"parts": []}, "Say what is counted"),
        ("factor", "step", {"levels": ["none"]}, "Two levels at the least"),
        ("remarks", "any", {"words": []}, "Leave a word at least"),
        ("drill", "mirror", {"name": "Gate" * 40}, "name"),
        ("drill", "mirror", {"name": "slow PARTS"}, "“slow PARTS” is there already"),
        ("sign", "dips", {"drill": "nothing"}, "no drill called “nothing”"),
        ("sign", "dips", {"measure": "punch_power"}, "no measure called punch_power"),
        ("sign", "dips", {"measure": "", "remarks": []}, "by which measure it is seen, or by which remarks"),
        ("sign", "dips", {"remarks": ["sleepy"]}, "“sleepy” is no remark here"),
        ("factor", "step", {"levels": ["none", "none"]}, "two levels have one name"),
        ("factor", "step", {"levels": ["a=b", "none"]}, "Leave , ; = | out"),
        ("factor", "step", {"name": "steps"}, "Add another one instead"),
        ("remarks", "hand", {"words": ["good", "clean"]}, "“good” is there twice"),
        ("point", "fist", {"measures": ["x"]}, "no measure called x"),
    ],
)
def test_what_could_not_be_used_is_refused_and_nothing_is_kept(
    coach: Client, kind: str, key: str, change: dict[str, Any], says: str
) -> None:
    content = book(coach, kind)[key]["content"]
    answer = write(coach, {**content, **change}, key)
    assert (answer.status_code, says in answer.json()["message"]) == (422, True)
    assert not Entry.objects.exists()


def test_a_drill_that_is_asked_for_stays_and_one_that_nothing_asks_for_goes_and_comes_back(coach: Client) -> None:
    assert "is what this asks for" in off(coach, "drill", "mirror", 0).json()["message"]
    assert off(coach, "drill", "burst", 0).json()["off"] is True
    assert book(coach, "drill")["burst"]["off"] is True
    assert put_back(coach, "drill", "burst", 0, 1).json()["off"] is False
    assert off(coach, "remarks", "hand", 0).status_code == 422


def test_a_card_is_of_a_strike_that_the_gym_knows(coach: Client) -> None:
    card = book(coach, "strike")["rear-straight"]["content"]
    assert "knows no strike called “Sky kick”" in write(coach, {**card, "name": "Sky kick"}).json()["message"]
    send(coach, "post", "strike-names", {"name": "Sky kick"})
    assert write(coach, {**card, "name": "Sky kick"}).json()["key"] == "sky-kick"


def test_remarks_and_factors_are_the_gyms(coach: Client, student: Student, bag: BagVersion) -> None:
    strike = Strike.objects.filter(recording=thrown(student, bag, 0, 0.1, seed=3)).first()
    assert strike is not None

    def remark(what: str, on: bool = True) -> int:
        return int(send(coach, "post", f"strikes/{strike.pk}/remarks", {"what": what, "on": on}).status_code)

    assert (remark("sleepy"), remark("dipped")) == (422, 200)
    words = [w for w in REMARKS["hand"] if w != "dipped"]
    write(coach, {"kind": "remarks", "name": "Hands", "words": ["sleepy", *words]}, "hand")
    assert coach.get("/api/measures").json()["remarks"]["hand"] == ["sleepy", *words]
    assert (remark("sleepy"), remark("dipped")) == (200, 422)
    assert remark("dipped", on=False) == 200  # what is said no longer can be taken back
    assert [r.what for r in Remark.objects.all()] == ["sleepy"]
    write(coach, {"kind": "factor", "name": "shoes", "levels": ["bare", "worn"]})
    assert coach.get("/api/measures").json()["factors"]["shoes"] == ["bare", "worn"]


def test_a_gyms_rule_is_what_its_evenings_ask_by(coach: Client, student: Student, bag: BagVersion) -> None:
    recording = thrown(student, bag, 0, 0.1, seed=3)
    Strike.objects.filter(recording=recording).update(pullback_mm=15.0, pullback_mm_sd=2.0)
    path = f"/api/evenings/{recording.session_id}/drills"
    assert coach.get(path).json()["drills"] == []
    rule = book(coach, "sign")["draws-back"]["content"]
    write(coach, {**rule, "edge": 5.0, "drill": "burst"}, "draws-back")
    (told,) = coach.get(path).json()["drills"]
    assert (told["name"], told["figure"]["edge"]) == ("Burst", 5.0)
    assert coach.get(f"/api/students/{student.pk}/drills").json()["drills"][0]["name"] == "Burst"
    student.birth_date = dt.date(2014, 1, 1)
    student.save()
    assert coach.get(path).json()["drills"] == []  # a burst is no child's
    answer = send(coach, "put", f"evenings/{recording.session_id}/drilled", {"drill": "burst", "on": True})
    assert "not for a child" in answer.json()["message"]


def test_what_only_a_coach_sees_is_kept_with_its_evening(coach: Client, student: Student, bag: BagVersion) -> None:
    evening = thrown(student, bag, 0, 0.1, seed=3).session_id

    def looked(point: str, good: bool | None) -> int:
        return int(send(coach, "put", f"evenings/{evening}/looked", {"point": point, "good": good}).status_code)

    assert [looked("fist", True), looked("fist", False), looked("head", True), looked("head", None)] == [200] * 4
    assert looked("shoes", True) == 404
    page = coach.get(f"/api/evenings/{evening}").json()
    assert page["looked"] == [{"point": "fist", "name": POINTS["fist"].name, "good": False}]
    with pytest.raises(IntegrityError), transaction.atomic():
        Looked.objects.create(session_id=evening, point="fist", name="x", good=True)


def test_what_went_with_a_drill_is_told_with_its_interval_or_that_nobody_knows(
    coach: Client, gym: Gym, student: Student, bag: BagVersion
) -> None:
    nights = [thrown(student, bag, day, 0.1, seed=day) for day in range(0, 42, 7)]
    for k, one in enumerate(nights):
        own = Strike.objects.filter(recording=one)
        for strike in own:
            strike.pullback_mm = (50.0 if k < 3 else 30.0) + strike.number % 5 + k % 2
        Strike.objects.bulk_update(own, ["pullback_mm"])
    assert coach.get("/api/drills-moved").json() == []
    send(coach, "put", f"evenings/{nights[2].session_id}/drilled", {"drill": "mirror", "on": True})
    told = {m["measure"]: m for m in coach.get("/api/drills-moved").json()}
    way = told["pullback_mm"]
    assert (way["drilled"], way["students"], way["up"]) == (1, 1, False)
    assert way["low"] < -20.0 < way["high"] < 0.0
    assert told["drop_mm"]["value"] is None  # no unit told of it
    send(coach, "put", f"evenings/{nights[2].session_id}/drilled", {"drill": "mirror", "on": False})
    assert not Drilled.objects.exists()


def test_what_a_school_and_the_calls_said_before_is_kept_and_stands_again(coach: Client, stranger: Client) -> None:
    first = coach.get("/api/schools").json()[0]
    path = f"schools/{first['id']}"
    text = {k: v for k, v in first.items() if k != "id"}
    assert coach.get(f"/api/{path}/versions").json() == []
    for belief in ("Turn and stay.", "Stay and turn."):
        text = {**text, "belief": belief, "checks": text["checks"][:1]}
        text["version"] = send(coach, "put", path, text).json()["version"]
    told = coach.get(f"/api/{path}/versions").json()
    assert [(v["text"]["belief"], len(v["text"]["checks"])) for v in told] == [
        ("Stay and turn.", 1), ("Turn and stay.", 1), (first["belief"], len(first["checks"])),
    ]  # fmt: skip
    assert [v["by"] != "" for v in told] == [True, True, False]
    again = send(coach, "put", path, {**told[2]["text"], "version": text["version"]}).json()
    assert {**again, "version": 1} == first
    assert stranger.get(f"/api/{path}/versions").status_code == 404

    words = coach.get("/api/calls").json()["words"]
    turned = dict(reversed(words.items()))
    assert send(coach, "put", "calls", {"words": turned, "before": words}).status_code == 200
    now, before = coach.get("/api/calls/versions").json()
    assert (list(now["words"].items()), list(before["words"].items())) == (list(turned.items()), list(words.items()))
    assert stranger.get("/api/calls/versions").json() == []
