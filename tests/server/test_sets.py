"""What a coach says of strikes, what units say of it, and what analysing again leaves alone."""

import csv
import io
import zipfile
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from asking import seen, values_of  # the server folder's own
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from makers import Played

from agile_strike.capture.models import Recording
from agile_strike.core.registry import NUMERIC
from agile_strike.gym.models import Gym
from agile_strike.intake import reading, tables, uploads
from agile_strike.intake.again import run_again
from agile_strike.intake.models import Reanalysis
from agile_strike.intake.reading import import_path
from agile_strike.kit.models import Bag, Calibration, Unit
from agile_strike.people.models import Student
from agile_strike.playbook.services import schools
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def worn(gym: Gym, student: Student, worn_folder: Any) -> Recording:
    import_path(gym, student, worn_folder)
    return Recording.objects.get()


def post(client: Client, path: str, body: dict[str, Any]) -> Any:
    return client.post(f"/api/{path}", body, content_type=JSON)


def again(client: Client, *recordings: Recording) -> Any:
    """Queue recordings to be analysed again, work the queue, and what came of it."""
    work = post(client, "reanalyses", {"recordings": [r.pk for r in recordings]}).json()
    assert work["state"] == "queued"
    run_again(work["id"])
    return client.get(f"/api/reanalyses/{work['id']}").json()


def brought(client: Client, name: str, content: bytes) -> Any:
    """A table, as it is seen once the queue has read it."""
    sent = client.post("/api/tables", {"file": SimpleUploadedFile(name, content)}).json()
    tables.look(sent["id"])
    return client.get(f"/api/tables/{sent['id']}").json()


def corrected(client: Client, table: Any, mapping: Any, answered: tuple[str, ...] = ()) -> Any:
    body = {"mapping": mapping, "answered": list(answered), "version": table["version"]}
    said = client.put(f"/api/tables/{table['id']}/mapping", body, content_type=JSON)
    assert said.status_code == 200, said.content
    tables.look(table["id"])
    return client.get(f"/api/tables/{table['id']}").json()


def strikes_of(client: Client, recording: Recording) -> Any:
    return client.get(f"/api/recordings/{recording.pk}/strikes").json()


def opened(coach: Client, strike: int, under: str = "") -> Any:
    """One strike's page."""
    return coach.get(f"/api/strikes/{strike}", {"under": under}).json()


def test_two_blocks_of_the_same_strike_are_two_sets(gym: Gym, student: Student, clean: Played) -> None:
    made = clean.simulated[0].recording
    value = "rear-straight;right_hand;level=head,gear=12 oz,weight transfer=stay centred,block=1"
    events = tuple(replace(e, value=value) if e.trial_type == "set" else e for e in made.events)
    recording = reading.import_recording(gym, student, replace(made, events=events))
    sets = list(recording.sets.all())
    assert [(s.code, s.gear, s.levels) for s in sets] == 2 * [
        ("rear-straight", "12 oz", {"weight transfer": "stay centred"})
    ]
    assert [s.strikes.count() for s in sets] == [4, 4]


def test_sets_come_from_the_recordings_events(recording: Recording, coach: Client) -> None:
    told = strikes_of(coach, recording)
    assert {s["code"] for s in told["sets"]} == {"rear-straight", "lead-hook"}
    assert told["planned"][0] == "rear-straight;right_hand;level=head"
    assert None not in told["set_id"]


def test_strikes_are_labelled_and_the_undo_puts_every_one_back(recording: Recording, gym: Gym, coach: Client) -> None:
    before = strikes_of(coach, recording)
    ids, school = before["id"][2:5], schools(gym)[0]
    label = {
        **seen(ids),
        "code": "rear-uppercut",
        "limb": "right_elbow",
        "levels": {"step": "none"},
        "school_id": school.pk,
    }
    made = post(coach, "strikes/label", label).json()
    now = strikes_of(coach, recording)
    assert now["set_id"][2:5] == [made["id"]] * 3
    assert now["limb"][2:5] == ["right_elbow"] * 3
    assert now["planned"][2] == "rear-uppercut;right_elbow;step=none"
    assert now["values"] == before["values"]
    had = zip(ids, before["set_id"][2:5], before["limb"][2:5], strict=True)
    back = [{"id": i, "set_id": s, "limb": limb, "version": 2} for i, s, limb in had]
    assert post(coach, "strikes/label/undo", {"strikes": back}).json() == {"changed": 3}
    assert strikes_of(coach, recording)["limb"] == before["limb"]
    assert strikes_of(coach, recording)["set_id"] == before["set_id"]
    assert not Strike.objects.exclude(relabelled_limb="").exists()  # the units' word is nobody's correction


def test_a_bad_label_changes_nothing(recording: Recording, coach: Client, stranger: Client) -> None:
    before = strikes_of(coach, recording)
    for bad in ({"code": " "}, {"code": "x", "limb": "left_wing"}, {"code": "x", "school_id": 10**6}):
        assert post(coach, "strikes/label", {**seen(before["id"][:2]), **bad}).status_code in (422, 404)
    assert post(stranger, "strikes/label", {**seen(before["id"][:2]), "code": "x"}).status_code == 404
    assert strikes_of(coach, recording) == before


def test_remarks_and_notes_stand_beside_the_measures(recording: Recording, coach: Client, stranger: Client) -> None:
    strike = recording.strikes.first()
    assert strike is not None
    assert post(coach, f"strikes/{strike.pk}/remarks", {"what": "leaned", "on": True}).json() == {"changed": 1}
    coach.put(f"/api/strikes/{strike.pk}/note", {"text": "heel up", "version": 1}, content_type=JSON)
    told = strikes_of(coach, recording)
    assert (told["remarks"][0], told["notes"][0]) == (["leaned"], "heel up")
    again_ = post(coach, f"strikes/{strike.pk}/remarks", {"what": "leaned", "on": True})
    assert again_.json() == {"changed": 0}  # said twice it stands once
    assert strikes_of(coach, recording)["remarks"][0] == ["leaned"]
    assert post(coach, f"strikes/{strike.pk}/remarks", {"what": "leaned", "on": False}).json() == {"changed": 1}
    assert post(coach, f"strikes/{strike.pk}/remarks", {"what": "lazy", "on": True}).status_code == 422
    assert post(stranger, f"strikes/{strike.pk}/remarks", {"what": "good", "on": True}).status_code == 404
    assert stranger.get(f"/api/strikes/{strike.pk}").status_code == 404


def test_a_strike_is_judged_by_the_school_of_its_set(worn: Recording, gym: Gym, coach: Client) -> None:
    told = strikes_of(coach, worn)
    ids = [i for i, limb in zip(told["id"], told["limb"], strict=True) if limb == "right_hand"]
    assert opened(coach, ids[0])["judgement"]["school"] is None
    centred, transfer = schools(gym)[0], schools(gym)[1]
    post(coach, "strikes/label", {**seen(ids[:3]), "code": "rear-straight", "school_id": centred.pk})
    post(coach, "strikes/label", {**seen(ids[3:]), "code": "rear-straight", "school_id": transfer.pk})
    judged = opened(coach, ids[0])["judgement"]
    weight = next(c for c in judged["checks"] if c["measure"] == "lead_load_contact_pct")
    assert (judged["school"], weight["verdict"]) == ("centred", "missed")
    words = [w for o in judged["objections"] for w in o["words"]]
    assert all("this way" in w for w in words)
    assert not any(
        w.startswith("impulse") and o["school"] == "centred" for o in judged["objections"] for w in o["words"]
    )


def test_lanes_are_kept_for_every_strike_and_their_mean(worn: Recording, coach: Client) -> None:
    ids = strikes_of(coach, worn)["id"]
    told = opened(coach, ids[1], "set")["lanes"]
    assert set(told["own"]) == {"speed_m_s", "torso_deg_s", "pelvis_deg_s", "lead_load_pct"}
    assert {len(c) for c in told["own"].values()} == {len(told["ms"])}
    assert set(told["under"]) == set(told["own"])
    other = opened(coach, ids[1], str(ids[2]))["lanes"]
    assert other["under"] == opened(coach, ids[2])["lanes"]["own"]


def test_a_school_is_changed_and_nonsense_is_refused(gym: Gym, coach: Client, stranger: Client) -> None:
    listed = coach.get("/api/schools").json()
    assert [s["name"] for s in listed] == ["centred", "full transfer", "drive through"]
    one = listed[0]
    body = {
        **{k: v for k, v in one.items() if k != "id"},
        "checks": [{"name": "Even", "measure": "lead_load_contact_pct", "low": 40, "high": 65, "strikes": []}],
    }
    assert coach.put(f"/api/schools/{one['id']}", body, content_type=JSON).json()["checks"][0]["high"] == 65
    upside_down = {**body, "version": 2, "checks": [{**body["checks"][0], "low": 70}]}
    assert "no range" in coach.put(f"/api/schools/{one['id']}", upside_down, content_type=JSON).json()["message"]
    assert post(coach, "schools", {**body, "name": "full transfer"}).status_code == 422
    assert stranger.put(f"/api/schools/{one['id']}", body, content_type=JSON).status_code == 404


def test_analysing_again_keeps_all_that_a_coach_said(recording: Recording, coach: Client) -> None:
    ids = strikes_of(coach, recording)["id"]
    post(coach, "strikes/label", {**seen(ids[:2]), "code": "rear-overhand"})
    post(coach, "strikes/exclude", {**seen([ids[3]]), "reason": "glancing"})
    post(coach, f"strikes/{ids[0]}/remarks", {"what": "good", "on": True})
    before = strikes_of(coach, recording)
    rows = again(coach, recording)["results"][0]["rows"]
    assert {r["measure"] for r in rows} <= set(NUMERIC)
    assert all(r["before"] == pytest.approx(r["after"], rel=1e-3, abs=1e-3) for r in rows)
    after = strikes_of(coach, recording)
    for key in ("id", "set_id", "excluded", "remarks", "number"):
        assert after[key] == before[key]


def test_a_strike_not_found_again_no_longer_counts_until_it_is(recording: Recording, coach: Client) -> None:
    before = strikes_of(coach, recording)
    moved = Strike.objects.get(pk=before["id"][2])
    Strike.objects.filter(pk=moved.pk).update(contact_s=moved.contact_s + 0.5)
    again(coach, recording)
    lost = Strike.objects.get(pk=moved.pk)
    assert (lost.excluded_reason, lost.number) == ("not found again", len(before["id"]) + 1)
    stand_in = Strike.objects.get(recording=recording, number=3)
    assert stand_in.contact_s == pytest.approx(moved.contact_s, abs=1e-3)
    assert Strike.objects.counted().filter(recording=recording).count() == len(before["id"])
    stand_in.delete()
    Strike.objects.filter(pk=moved.pk).update(contact_s=moved.contact_s)
    again(coach, recording)
    assert strikes_of(coach, recording)["id"] == before["id"]
    assert Strike.objects.counted().filter(pk=moved.pk).exists()


def test_analysing_again_writes_all_strikes_at_once(recording: Recording, coach: Client) -> None:
    with CaptureQueriesContext(connection) as asked:
        again(coach, recording)
    said = [q["sql"] for q in asked if '"review_strike"' in q["sql"]]
    assert len([sql for sql in said if sql.startswith(("INSERT", "UPDATE"))]) == 2


def test_analysing_again_is_cancelled_between_recordings_and_never_done_twice(
    recording: Recording, coach: Client, stranger: Client
) -> None:
    queued = post(coach, "reanalyses", {"recordings": [recording.pk]}).json()
    assert stranger.get(f"/api/reanalyses/{queued['id']}").status_code == 404
    assert post(stranger, f"reanalyses/{queued['id']}/cancel", {}).status_code == 404
    assert post(coach, f"reanalyses/{queued['id']}/cancel", {}).json()["state"] == "cancelled"
    run_again(queued["id"])
    assert Reanalysis.objects.get().results == []
    done = again(coach, recording)
    assert (done["state"], done["progress"]) == ("done", 1.0)
    revision = Recording.objects.get().revision
    run_again(done["id"])
    assert Recording.objects.get().revision == revision
    assert post(stranger, "reanalyses", {"recordings": [recording.pk]}).status_code == 404


def test_a_recording_without_samples_says_so_and_the_others_go_on(recording: Recording, coach: Client) -> None:
    recording.chunks.all().delete()
    told = again(coach, recording)
    assert told["state"] == "done"
    assert "no longer kept" in told["results"][0]["problem"]
    assert recording.strikes.count() == 8


def test_the_table_that_goes_out_has_the_coachs_word_for_the_limb(recording: Recording, coach: Client) -> None:
    ids = strikes_of(coach, recording)["id"]
    post(coach, "strikes/label", {**seen(ids[:1]), "code": "rear-elbow-across", "limb": "right_elbow"})
    content = coach.get(f"/api/recordings/{recording.pk}/strikes.csv").content.decode()
    table = list(csv.DictReader(io.StringIO(content)))
    assert (table[0]["limb"], table[0]["set"].split(";")[0]) == ("right_elbow", "rear-elbow-across")
    assert table[2]["limb"] != "right_elbow"


def test_a_heavier_bag_found_later_moves_the_impulse_when_analysed_again(recording: Recording, coach: Client) -> None:
    bag = coach.get("/api/bags").json()[0]
    post(
        coach,
        "bags",
        {"id": bag["id"], "version": 1, "name": bag["name"], "values": {**values_of(bag), "impulse_gain": 1.1}},
    )
    rows = {r["measure"]: r for r in again(coach, recording)["results"][0]["rows"]}
    assert rows["impulse_n_s"]["after"] == pytest.approx(1.1 * rows["impulse_n_s"]["before"], rel=1e-3)


def test_units_are_noted_as_they_are_seen(worn: Recording, coach: Client) -> None:
    listed = {u["place"]: u for u in coach.get("/api/units").json()}
    assert listed["pelvis"]["rate_hz"] == 400.0
    assert listed["leftwrist"]["calibrated_on"] is None
    assert Unit.objects.count() == worn.wears.count()


def test_a_calibration_is_kept_only_if_it_fits(recording: Recording, coach: Client, evening_zip: bytes) -> None:
    bag = Bag.objects.get()
    file = SimpleUploadedFile("evening.zip", evening_zip)
    refused = coach.post("/api/calibrations?kind=rests&placement=bag", {"file": file})
    assert refused.status_code == 422
    assert "six" in refused.json()["message"] or "at rest" in refused.json()["message"]
    hits = SimpleUploadedFile("ball.zip", evening_zip)
    speeds = ",".join(["8 2"] * 8)
    told = coach.post(f"/api/calibrations?kind=ball&bag_id={bag.pk}&ball_kg=2.9&speeds={speeds}", {"file": hits})
    assert told.status_code == 201
    drawn = told.json()["drawn"]
    assert drawn["true_n_s"] == pytest.approx([2.9 * 10.0] * 8)  # it came at 8 and went back at 2 m/s
    fit = np.dot(drawn["true_n_s"], drawn["measured_n_s"]) / np.dot(drawn["measured_n_s"], drawn["measured_n_s"])
    assert told.json()["result"]["gain"] == pytest.approx(fit, rel=0.05)
    assert Calibration.objects.count() == 1
    unknown = coach.post("/api/calibrations?kind=moon", {"file": SimpleUploadedFile("a.zip", b"x")})
    assert unknown.status_code == 422


def test_a_foreign_table_comes_in_and_its_profile_is_remembered(
    gym: Gym, student: Student, coach: Client, recording: Recording, clean: Played
) -> None:
    unit = clean.simulated[0].recording.units["bag"]
    rows = "\n".join(
        f"{i},{','.join(f'{x:.5f}' for x in (*a, *g))}"
        for i, (a, g) in enumerate(zip(unit.accel_m_s2, unit.gyro_rad_s, strict=True))
    )
    content = f"tick,ax,ay,az,gx,gy,gz\n{rows}\n".encode()
    table = brought(coach, "night.csv", content)
    assert {q["about"] for q in table["questions"]} == {"time", "placement"}
    mapping = {**table["mapping"], "time_unit": "ms"}
    half = corrected(coach, table, mapping, answered=("time",))
    assert [q["about"] for q in half["questions"]] == ["placement"]  # one answer does not answer the other
    mapping["units"][0]["placement"] = "bag"
    fixed = corrected(coach, half, mapping)
    assert (fixed["questions"], fixed["against"]) == ([], [])
    bag = Bag.objects.get()
    what = {"ids": [table["id"]], "student_id": student.pk, "bag_id": bag.pk, "save_as": "blue logger"}
    upload = post(coach, "table-imports", what).json()
    uploads.run_import(upload["id"])
    assert coach.get(f"/api/uploads/{upload['id']}").json()["message"] == "8 strikes in 1 recording."
    again = brought(coach, "next week.csv", content)
    assert (again["profile"], again["questions"]) == ("blue logger", [])
    assert again["mapping"]["units"][0]["placement"] == "bag"


@pytest.mark.parametrize("content", [b"", b"only words\n", b"\x00\x01\x02" * 2000])
def test_a_file_without_a_table_is_refused_in_one_line(coach: Client, content: bytes) -> None:
    if not content:
        assert coach.post("/api/tables", {"file": SimpleUploadedFile("odd.csv", content)}).status_code == 422
        return
    told = brought(coach, "odd.csv", content)
    assert told["state"] == "failed"
    assert told["message"].startswith("odd.csv: ")
    assert "\n" not in told["message"]


def test_a_recording_goes_out_as_it_came_in(worn: Recording, gym: Gym, coach: Client, stranger: Client) -> None:
    answer = coach.get(f"/api/recordings/{worn.pk}/motion-bids.zip")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        names = [n for n in archive.namelist() if n.endswith("_motion.tsv")]
    assert len(names) == worn.wears.count()
    assert coach.get(f"/api/recordings/{worn.pk}/strikes.parquet").content[:4] == b"PAR1"
    assert stranger.get(f"/api/recordings/{worn.pk}/motion-bids.zip").status_code == 404
    assert Strike.objects.filter(recording=worn).count() == worn.analysis.strike_count


def test_each_strike_says_why_a_measure_is_not_there(worn: Recording, coach: Client, stranger: Client) -> None:
    strikes = list(worn.strikes.order_by("number"))
    lacking = next(s for s in strikes if s.tell_ms is None)  # type: ignore[attr-defined]
    why = coach.get(f"/api/strikes/{lacking.pk}/absent").json()
    drawn = max(lacking.pullback_mm, lacking.drop_mm)  # type: ignore[attr-defined]
    assert why["tell_ms"] == (
        "the limb told, but its guard swayed too much to say since when"
        if drawn > 15.0
        else "nothing of the kind happened in this strike"
    )
    assert "impulse_n_s" not in why
    first = coach.get(f"/api/strikes/{strikes[0].pk}/absent").json()
    assert first["gap_ms"] == "the first strike has none before it"
    assert "in this recording" in first["reaction_ms"]
    assert stranger.get(f"/api/strikes/{lacking.pk}/absent").status_code == 404
