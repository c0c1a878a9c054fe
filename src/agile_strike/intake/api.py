"""What is brought in: data sets, any logger's tables, calibration recordings; and analysing again."""

from typing import IO, Any, cast

import numpy as np
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import File, Query, Router, Status
from ninja.files import UploadedFile

from agile_strike.capture.models import Recording, Upload
from agile_strike.core.errors import BadInput
from agile_strike.gym.asking import attached, found, gym, user
from agile_strike.gym.bodies import Changed, Problem
from agile_strike.intake import again, tables, uploads
from agile_strike.intake import schemas as s
from agile_strike.intake.calibrate import Asked, touched
from agile_strike.intake.calibrate import calibrate as run_calibration
from agile_strike.intake.models import ForeignFile, Reanalysis
from agile_strike.kit.api import CalibrationOut
from agile_strike.kit.models import BagVersion, Calibration
from agile_strike.people.models import Student
from agile_strike.review.api import file_name, handed_out

router = Router()
FASTEST_BALL_M_S = 60.0
LARGEST_CALIBRATION_BYTES = 60_000_000


def _owner(request: HttpRequest, student_id: int | None) -> Student | None:
    return None if student_id is None else found(Student.objects.for_gym(gym(request)), student_id, "student")


def _stream(file: UploadedFile) -> IO[bytes]:
    return cast(IO[bytes], file.file)


# --- data sets


def _uploads(request: HttpRequest) -> "QuerySet[Upload]":
    return Upload.objects.for_gym(gym(request)).prefetch_related("recordings")


@router.post("/uploads", response={201: s.UploadOut, 422: Problem})
def upload(request: HttpRequest, file: File[UploadedFile], student_id: Query[int | None] = None) -> Any:
    owner, name = _owner(request, student_id), file.name or "upload"
    return Status(201, uploads.receive(gym(request), owner, user(request), name, file.size or 0, _stream(file)))


@router.get("/uploads", response=list[s.UploadOut])
def all_uploads(request: HttpRequest) -> "QuerySet[Upload]":
    return _uploads(request)[:20]


@router.get("/uploads/{upload_id}", response=s.UploadOut)
def upload_state(request: HttpRequest, upload_id: int) -> Upload:
    return found(_uploads(request), upload_id, "upload")


@router.post("/uploads/{upload_id}/cancel", response=s.UploadOut)
def cancel_upload(request: HttpRequest, upload_id: int) -> Upload:
    return uploads.cancel(found(_uploads(request), upload_id, "upload"))


@router.get("/recordings/{recording_id}/motion-bids.zip", include_in_schema=False)
def motion_bids(request: HttpRequest, recording_id: int) -> HttpResponse:
    row = handed_out(request, recording_id)
    return attached(tables.zipped(again.raw(row)), "application/zip", f"{file_name(row)}.zip")


# --- any logger's tables


@router.post("/tables", response={201: s.TableOut, 422: Problem})
def bring_table(request: HttpRequest, file: File[UploadedFile], student_id: Query[int | None] = None) -> Any:
    owner, name = _owner(request, student_id), file.name or "table"
    row = tables.receive_table(gym(request), user(request), name, file.size or 0, _stream(file), owner)
    return Status(201, row)


@router.get("/students/{student_id}/tables", response=list[s.TableOut])
def waiting_tables(request: HttpRequest, student_id: int) -> list[ForeignFile]:
    """Tables that were brought for a student and are not imported yet."""
    return tables.waiting(gym(request), found(Student.objects.for_gym(gym(request)), student_id, "student"))


@router.get("/tables/{table_id}", response={200: s.TableOut, 422: Problem})
def table(request: HttpRequest, table_id: int) -> ForeignFile:
    return tables.see(gym(request), table_id)


@router.put("/tables/{table_id}/mapping", response={200: s.TableOut, 422: Problem, 409: Problem})
def correct_table(request: HttpRequest, table_id: int, what: s.CorrectionIn) -> ForeignFile:
    return tables.correct(gym(request), table_id, what.mapping.model_dump(), what.answered, what.version)


@router.delete("/tables/{table_id}", response={200: Changed, 422: Problem})
def leave_table(request: HttpRequest, table_id: int) -> Changed:
    return Changed(changed=tables.leave(gym(request), table_id))


@router.post("/table-imports", response={201: s.UploadOut, 422: Problem})
def import_tables(request: HttpRequest, what: s.TablesIn) -> Any:
    own = gym(request)
    owner = found(Student.objects.for_gym(own), what.student_id, "student")
    version = None
    if what.bag_id is not None:
        version = BagVersion.objects.for_gym(own).filter(bag_id=what.bag_id, bag__removed_at__isnull=True).first()
        if version is None:
            raise BadInput("That bag is not in this gym. Choose the one that was struck.")
    at = what.at.replace(tzinfo=own.zone) if what.at is not None and what.at.tzinfo is None else what.at
    return Status(201, tables.import_tables(own, owner, user(request), what.ids, version, what.task, what.save_as, at))


# --- calibrating


@router.get("/calibrations", response=list[CalibrationOut])
def calibrations(request: HttpRequest) -> "QuerySet[Calibration]":
    return Calibration.objects.for_gym(gym(request)).select_related("bag", "unit")[:100]


@router.post("/calibrations", response={201: CalibrationOut, 422: Problem})
def calibrate(
    request: HttpRequest,
    file: File[UploadedFile],
    kind: Query[str],
    placement: Query[str] = "",
    unit_id: Query[int | None] = None,
    bag_id: Query[int | None] = None,
    pivot_above_top_m: Query[float] = 0.0,
    ball_kg: Query[float] = 0.0,
    speeds: Query[str] = "",
) -> Any:
    """`speeds`: pairs in and out, as `3.1 1.2, 3.0 1.1`, metres a second, one for each hit of the ball."""
    try:
        pairs = tuple((float(a), float(b)) for a, b in (pair.split() for pair in speeds.split(",") if pair.strip()))
    except ValueError as error:
        raise BadInput("Give the ball's speeds as pairs, in and out: 3.1 1.2, 3.0 1.1") from error
    if not (np.isfinite(pivot_above_top_m) and np.isfinite(ball_kg)):
        raise BadInput("Give the pivot's height and the ball's mass as numbers.")
    if not all(0.0 <= abs(v) < FASTEST_BALL_M_S for pair in pairs for v in pair):
        raise BadInput("Give the ball's speeds in metres a second: 3.1 1.2, 3.0 1.1")
    if (file.size or 0) > LARGEST_CALIBRATION_BYTES:
        raise BadInput("A calibration takes a minute: this file holds far more. Bring the calibration alone.")
    if kind not in Calibration.Kind.values:
        raise BadInput(f"{kind[:40]} is no calibration: choose one of {', '.join(Calibration.Kind.values)}.")
    asked = Asked(kind, placement, unit_id, bag_id, pivot_above_top_m, ball_kg, pairs)
    return Status(201, run_calibration(gym(request), asked, file.name or "recording", _stream(file), user(request)))


@router.get("/calibrations/{calibration_id}/touches", response={200: list[s.TouchedOut], 422: Problem})
def calibration_touches(request: HttpRequest, calibration_id: int) -> list[Recording]:
    return touched(gym(request), calibration_id)


# --- analysing again


@router.post("/reanalyses", response={201: s.AgainOut, 422: Problem})
def analyse_again(request: HttpRequest, what: s.AgainIn) -> Any:
    return Status(201, again.queue_again(gym(request), what.recordings, user(request)))


@router.get("/reanalyses/{reanalysis_id}", response=s.AgainOut)
def reanalysis(request: HttpRequest, reanalysis_id: int) -> Reanalysis:
    return found(Reanalysis.objects.for_gym(gym(request)), reanalysis_id, "re-analysis")


@router.post("/reanalyses/{reanalysis_id}/cancel", response={200: s.AgainOut, 422: Problem})
def cancel_again(request: HttpRequest, reanalysis_id: int) -> Reanalysis:
    return again.cancel_again(gym(request), reanalysis_id)
