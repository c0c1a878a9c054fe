"""All of a gym out as one file, and in again."""

import datetime as dt
from typing import IO, Any, cast

from django.http import HttpRequest, StreamingHttpResponse
from django.utils.http import content_disposition_header
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from agile_strike.archive import services
from agile_strike.archive.models import Archive
from agile_strike.capture import store
from agile_strike.gym.asking import found, gym, user
from agile_strike.gym.bodies import In, Problem

router = Router()


class ArchiveIn(In):
    motion_bids: bool = True  #: every recording as Motion-BIDS besides


class ArchiveOut(Schema):
    id: int
    way: str  #: out or in
    state: str
    stage: str
    progress: float
    message: str
    file_name: str
    size_bytes: int
    created_at: dt.datetime
    ended_at: dt.datetime | None
    waits: bool  #: to be fetched

    @staticmethod
    def resolve_waits(row: Archive) -> bool:
        return row.way == Archive.Way.OUT and row.state == Archive.State.DONE and row.file_id is not None


@router.get("/archives", response=list[ArchiveOut])
def archives(request: HttpRequest) -> Any:
    """The latest few, out and in."""
    return Archive.objects.for_gym(gym(request))[:5]


@router.post("/archives", response={201: ArchiveOut, 422: Problem})
def write(request: HttpRequest, what: ArchiveIn) -> Status[Archive]:
    return Status(201, services.ask_out(gym(request), user(request), what.motion_bids))


@router.post("/archives/in", response={201: ArchiveOut, 422: Problem})
def bring(request: HttpRequest, file: File[UploadedFile]) -> Status[Archive]:
    content = cast(IO[bytes], file.file)
    return Status(
        201, services.ask_in(gym(request), user(request), file.name or "archive.zip", file.size or 0, content)
    )


@router.post("/archives/{archive_id}/cancel", response={200: ArchiveOut, 422: Problem})
def cancel(request: HttpRequest, archive_id: int) -> Archive:
    return services.cancel(gym(request), archive_id)


@router.get("/archives/{archive_id}/file.zip", include_in_schema=False)
def fetch(request: HttpRequest, archive_id: int) -> StreamingHttpResponse:
    waiting = Archive.objects.for_gym(gym(request)).filter(way=Archive.Way.OUT, file__isnull=False)
    row = found(waiting, archive_id, "archive")
    response = StreamingHttpResponse(store.contents(row.file_id), content_type="application/zip")
    response["Cache-Control"] = "no-store"
    response["Content-Length"] = str(row.size_bytes)
    response["Content-Disposition"] = content_disposition_header(True, row.file_name) or "attachment"
    return response
