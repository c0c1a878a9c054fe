"""A person becomes nobody: what trials rest on stays, who it was goes.

What of a body moves is as good as a name, so samples and drawn curves go with the words; figures stay.
"""

import re

from django.db import transaction
from django.db.models import QuerySet

from agile_strike.archive.services import forget_all
from agile_strike.capture.models import Chunk, Recording
from agile_strike.evening.models import Session
from agile_strike.gym.models import Gym
from agile_strike.live.models import Take
from agile_strike.live.taps.takes import forget
from agile_strike.logbook.models import Note
from agile_strike.people.models import Earlier, Mark, Student
from agile_strike.plans.models import Week
from agile_strike.removal.services import asked_by_name, without_files
from agile_strike.reports.models import Report
from agile_strike.review.models import Strike, StrikeLanes
from agile_strike.review.say import REASONS
from agile_strike.trials.compare import refresh
from agile_strike.trials.models import Claim, ClaimPage, Decision, Trial

NAME, LABEL = "Former student", "former"
BETWEEN = r"[\s.,-]+"  # the words of a name
REASON = "Left out with the name."
BORN = (7, 1)  # of the year, which is all that is kept of a birth date


@transaction.atomic
def make_nameless(gym: Gym, student_id: int, name: str) -> Student:
    """Keep a person's figures and trials without the person. The coach types the name; nothing brings it back."""
    student = asked_by_name(gym, student_id, name, "make nameless")
    was, own = student.name, Recording.objects.filter(student=student)
    without_files(gym, student)
    forget(student)
    number = _free_number(gym)
    student.name, student.label = f"{NAME} {number}", f"{LABEL}{number}"
    if student.birth_date is not None:
        student.birth_date = student.birth_date.replace(month=BORN[0], day=BORN[1])
    student.left_on = student.left_on or gym.today
    student.version += 1
    student.save(update_fields=["name", "label", "birth_date", "left_on", "version"])
    _without_words(student)
    _without_body(own)
    rows = list(own)
    for row in rows:
        row.stated, row.session_label = row.stated | {"as": student.label}, ""
    Recording.objects.bulk_update(rows, ["stated", "session_label"], 500)
    shared = list(Trial.objects.filter(students=student).values_list("pk", flat=True))
    for kept in (Claim, ClaimPage):
        kept.objects.filter(trial__in=shared).delete()
    named = name_pattern(was)
    for decision in Decision.objects.filter(student=student):
        decision.reason, decision.said = REASON, named.sub(student.name, decision.said)
        decision.save(update_fields=["reason", "said"])
    forget_all(gym)
    people = set(Student.objects.filter(trials__in=shared).values_list("pk", flat=True))
    transaction.on_commit(lambda: refresh(people))
    return student


def name_pattern(name: str) -> re.Pattern[str]:
    """A name in a text: whole, or each of its words alone, in capitals or not. An initial counts with its full stop,
    and without where it is all that there is: else every "a" of a sentence would be one."""
    words = [w for w in re.split(BETWEEN, name) if w]
    long = sorted((w for w in words if len(w) > 2), key=len, reverse=True)
    each = [BETWEEN.join(map(re.escape, words)), *map(re.escape, long)]
    initials = [re.escape(w) + (r"\.?" if len(words) == 1 else r"\.") for w in words if len(w) <= 2]
    either = "|".join([f"(?i:{p})" for p in each if p] + initials)
    return re.compile(rf"(?<!\w)(?:{either})(?!\w)") if either else re.compile(r"(?!)")


def _free_number(gym: Gym) -> int:
    taken = Student.objects.with_removed_of(gym).filter(label__startswith=LABEL).values_list("label", flat=True)
    return max([int(t.removeprefix(LABEL)) for t in taken if t.removeprefix(LABEL).isdecimal()], default=0) + 1


def _without_words(student: Student) -> None:
    """Everything that anybody wrote of or for the person."""
    for words in (Note, Mark, Earlier, Report, Week):
        words._base_manager.filter(student=student).delete()
    Session.objects.filter(student=student).update(soreness="", notes="")
    strikes = Strike.objects.filter(recording__student=student)
    strikes.exclude(note="").update(note="")
    strikes.exclude(excluded_reason__in=("", *REASONS)).update(excluded_reason="other")


def _without_body(own: "QuerySet[Recording]") -> None:
    Chunk.objects.filter(recording__in=own).delete()
    StrikeLanes.objects.filter(strike__recording__in=own).delete()
    Take.objects.filter(recording__in=own).delete()
