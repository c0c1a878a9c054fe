"""Requests as the pages send them."""

from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from agile_strike.people.models import Student
from agile_strike.review.models import Strike


def sent(client: Client, student: Student, content: bytes, name: str = "evening.zip") -> int:
    answer = client.post(f"/api/uploads?student_id={student.pk}", {"file": SimpleUploadedFile(name, content)})
    assert answer.status_code == 201, answer.content
    return int(answer.json()["id"])


def send(client: Client, method: str, path: str, body: Any = None) -> Any:
    """A request with a body, as the page sends it."""
    return getattr(client, method)(f"/api/{path}", body, content_type="application/json")


def seen(ids: list[int]) -> dict[str, list[int]]:
    """Strikes as a page shows them now: each with its version."""
    versions = dict(Strike.objects.filter(pk__in=ids).values_list("pk", "version"))
    return {"ids": ids, "versions": [versions.get(i, 1) for i in ids]}


def values_of(shown: dict[str, Any]) -> dict[str, Any]:
    """A bag's figures as its form sends them back."""
    told = ("id", "since", "why", "inertia_used_kg_m2", "bands_used_m")
    return {k: v for k, v in shown["current"].items() if k not in told}
