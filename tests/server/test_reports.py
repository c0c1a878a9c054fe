"""Reports: only what their reader may see, tagged, fonts inside, alike on both papers; links that end."""

import datetime as dt
import io
from typing import Any

import pytest
from asking import send  # the server folder's own
from django.test import Client
from pypdf import PdfReader
from trial_makers import START  # the server folder's own

from agile_strike.core.measures.units import convert, digits, said, worth
from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym
from agile_strike.people.models import Mark, Student
from agile_strike.reports.draw import ticks
from agile_strike.reports.models import Report
from agile_strike.review.models import Remark, Strike
from agile_strike.trials.models import Trial

pytestmark = pytest.mark.django_db


def words(content: bytes) -> str:
    text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages)
    return " ".join(text.replace("\u00a0", " ").split())


def report(client: Client, student: Student, **asked: Any) -> bytes:
    answer = client.get(f"/api/students/{student.pk}/report.pdf", {"weeks": 52, **asked})
    assert answer.status_code == 200, answer.content
    return bytes(answer.content)


@pytest.fixture
def told(gym: Gym, student: Student, trial: Trial, coach: Client) -> Student:
    """A student with a trial, notes, a remark, a reason, an injury; and another student in the same trial."""
    born = dt.date(1990, 1, 1)
    other = Student.objects.create(gym=gym, name="Bram Secret", label="bram", stance="orthodox", birth_date=born)
    trial.students.add(other)
    Session.objects.filter(student=student, day=START).update(notes="Lazy tonight", soreness="left wrist")
    Remark.objects.create(strike=Strike.objects.order_by("pk")[0], what="dipped")
    Mark.objects.create(student=student, kind="injury", since=START, text="left wrist")
    decided = {"student_id": student.pk, "what": "keep", "level": "full shift", "reason": "Do not tell her mother"}
    assert send(coach, "post", f"trials/{trial.pk}/decisions", decided).status_code == 200
    return student


@pytest.mark.parametrize("kind", ["student", "coach", "season"])
def test_a_report_says_what_its_reader_may_see_and_no_more(told: Student, coach: Client, kind: str) -> None:
    text = words(report(coach, told, kind=kind))
    assert "Petra Vanek" in text
    assert "Rear straight, impulse: typically" in text
    assert "more impulse than stay centred" in text
    assert "left wrist, not over" in text
    assert "Bram" not in text
    private = ("Lazy tonight", "dipped", "mother")
    assert {p: p in text for p in private} == dict.fromkeys(private, kind == "coach")


def test_both_papers_hold_the_same_words_tagged_with_fonts_inside(told: Student, coach: Client) -> None:
    one, other = (report(coach, told, kind="season", paper=paper) for paper in ("A4", "Letter"))
    assert {w for w in words(one).split() if w.isalpha()} == {w for w in words(other).split() if w.isalpha()}
    for content, size in ((one, (595, 842)), (other, (612, 792))):
        read = PdfReader(io.BytesIO(content))
        assert read.trailer["/Root"]["/MarkInfo"]["/Marked"]
        assert tuple(round(float(x)) for x in read.pages[0].mediabox[2:]) == size
        for font in read.pages[0]["/Resources"]["/Font"].values():
            (inner,) = font.get_object()["/DescendantFonts"]
            assert "Archivo" in inner.get_object()["/BaseFont"]
            assert "/FontFile2" in inner.get_object()["/FontDescriptor"].get_object()


def test_units_are_those_asked_for(told: Student, coach: Client) -> None:
    assert "lbf s" not in words(report(coach, told))
    us = words(report(coach, told, units="us"))
    assert ("lbf s" in us, " N s" in us) == (True, False)


def test_a_child_is_told_of_technique_alone_and_of_nothing_without_consent(told: Student, coach: Client) -> None:
    born = told.gym.today - dt.timedelta(days=365 * 12)
    Student.objects.filter(pk=told.pk).update(birth_date=born, consent="missing")
    path = f"/api/students/{told.pk}/report.pdf"
    assert coach.get(path).status_code == 422
    Student.objects.filter(pk=told.pk).update(consent="kept")
    assert "choose a measure of technique" in coach.get(path, {"measure": "impulse_n_s"}).json()["message"]
    text = words(report(coach, told))
    assert "impulse: typically" not in text
    assert "Figures of full effort are not told of children" in text


def test_a_link_opens_what_was_handed_out_until_it_ends(
    told: Student, coach: Client, stranger: Client, client: Client
) -> None:
    body = {"kind": "student", "weeks": 52, "paper": "A4", "units": "si", "days": 7}
    assert send(coach, "post", f"students/{told.pk}/reports", body | {"kind": "coach"}).status_code == 422
    assert send(coach, "post", f"students/{told.pk}/reports", body | {"days": 0}).status_code == 422
    assert send(stranger, "post", f"students/{told.pk}/reports", body).status_code == 404
    made = send(coach, "post", f"students/{told.pk}/reports", body).json()
    Strike.objects.all().delete()  # it stays as it was handed out
    opened = client.get(made["link"])
    assert (opened.status_code, opened["Cache-Control"]) == (200, "no-store")
    assert "Petra Vanek" in words(opened.content)
    for guess in ("guessed", "%00" * 30, "a" * 43, "é" * 25):
        assert client.get(f"/r/{guess}").status_code == 404
    row = Report.objects.get()
    Report.objects.update(until=told.gym.today - dt.timedelta(days=1))
    assert client.get(made["link"]).status_code == 404
    Report.objects.update(until=row.until)
    Student.objects.update(birth_date=told.gym.today, consent="withdrawn")
    assert client.get(made["link"]).status_code == 404  # a guardian takes back what was given
    Student.objects.update(birth_date=dt.date(1990, 1, 1))
    assert client.get(made["link"]).status_code == 200
    assert stranger.delete(f"/api/reports/{made['id']}").status_code == 404
    assert [r["link"] for r in coach.get(f"/api/students/{told.pk}/reports").json()] == [made["link"]]
    assert coach.delete(f"/api/reports/{made['id']}").status_code == 200
    assert client.get(made["link"]).status_code == 404
    assert coach.get(f"/api/students/{told.pk}/reports").json() == []


def test_a_student_of_whom_nothing_is_known_has_a_report_too(student: Student, coach: Client) -> None:
    for kind in ("student", "coach", "season"):
        assert "Nothing was measured in these weeks." in words(report(coach, student, kind=kind, weeks=4))
    assert coach.get(f"/api/students/{student.pk}/report.pdf", {"weeks": 5}).status_code == 422
    assert coach.get(f"/api/students/{student.pk}/report.pdf", {"kind": "rank"}).status_code == 422


@pytest.mark.parametrize(("doubt", "decimals"), [(12.0, 0), (4.0, 0), (1.4, 1), (0.4, 1), (0.14, 2), (0.0, 2)])
def test_no_figure_is_told_finer_than_its_doubt(doubt: float, decimals: int) -> None:
    assert worth(doubt, 2) == decimals


def test_quantities_in_other_units() -> None:
    assert said("11 to 20 N s more, 3 m off, 7 ms later, −1,200 N", "us") == (
        "2.5 to 4.5 lbf s more, 118 in off, 7 ms later, −270 lbf"
    )
    assert convert(0.0125, "m", 3, "si") == (12.5, "mm", 0)
    assert (digits(-0.04, 1), digits(1234.5, 1), digits(-3.0, 0)) == ("0.0", "1,234.5", "−3")
    assert ticks(17.0, 31.0) == [20.0, 25.0, 30.0]
