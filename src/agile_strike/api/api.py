"""The API: schema in, service, schema out. Everything is cut to the gym of who asks."""

from collections.abc import Sequence
from typing import IO, Any, cast

import numpy as np
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError as PasswordRefused
from django.db import DataError
from django.db.models import Count, Max, Prefetch, Q
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.utils import timezone
from ninja import File, NinjaAPI, Query, Status
from ninja.errors import HttpError, ValidationError
from ninja.files import UploadedFile
from ninja.renderers import JSONRenderer
from ninja.security import django_auth
from ninja.utils import check_csrf
from pydantic_core import to_json

from agile_strike.api import schemas as s
from agile_strike.api.asking import attached, found, gym, member
from agile_strike.api.base import LARGEST_ID
from agile_strike.api.trials import router as trials_router
from agile_strike.capture.models import Recording, Upload
from agile_strike.core import schools as core_schools
from agile_strike.core.children import is_child, no_consent
from agile_strike.core.errors import BadInput, ChangedMeanwhile
from agile_strike.core.measures.measure import Measure
from agile_strike.core.registry import FLAG_MEANINGS, GROWS_WITH_MASS, MEASURES, NUMERIC, PER_BODY_MASS, find
from agile_strike.core.strikes import LIMBS
from agile_strike.core.student.lanes import TIMES_S
from agile_strike.core.target import Bag as CoreBag
from agile_strike.core.vocabulary import FACTORS, STRIKE_CODES
from agile_strike.formats.mapping import ACCEL_UNITS, GYRO_UNITS, LOAD_UNITS, PLACES, SOLE_PLACES, TIME_UNITS, Question
from agile_strike.formats.tabular import as_csv
from agile_strike.intake import again, tables
from agile_strike.intake import services as intake
from agile_strike.intake.again import raw
from agile_strike.intake.calibrate import Asked, touched
from agile_strike.intake.calibrate import calibrate as run_calibration
from agile_strike.intake.models import ForeignFile, Reanalysis
from agile_strike.kit import services as kit
from agile_strike.kit.models import FIELDS, Bag, BagVersion, Calibration, Unit
from agile_strike.people import services as people
from agile_strike.people.models import BodyMass, Student
from agile_strike.people.services import NotAllowed
from agile_strike.playbook import services as playbook
from agile_strike.playbook.models import School
from agile_strike.removal import services as removal
from agile_strike.review import services as review
from agile_strike.review.models import Remark, Strike, StrikeSet

VALUE_DIGITS, SD_DIGITS = 7, 5  # significant


class _Finite(JSONRenderer):
    """Answers as JSON that any reader takes: a NaN would be none."""

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> bytes:
        return to_json(data, inf_nan_mode="null")


api = NinjaAPI(title="Agile Strike", version="1", auth=django_auth, docs_url=None, renderer=_Finite())
api.add_router("", trials_router)


@api.exception_handler(ChangedMeanwhile)
def changed_meanwhile(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"message": str(error)}, status=409)


@api.exception_handler(NotAllowed)
def not_allowed(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"message": str(error)}, status=422)


@api.exception_handler(BadInput)
def bad_input(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"message": str(error)}, status=422)


@api.exception_handler(HttpError)
def refused(request: HttpRequest, error: Any) -> HttpResponse:
    return api.create_response(request, {"message": error.message}, status=error.status_code)


@api.exception_handler(DataError)
def beyond_the_database(request: HttpRequest, error: Exception) -> HttpResponse:
    """Text with a zero byte, a number that no column holds: nothing was saved."""
    said = "A value holds a character or a size that can't be kept. Type it anew."
    return api.create_response(request, {"message": said}, status=422)


@api.exception_handler(ValueError)
def zero_byte(request: HttpRequest, error: Exception) -> HttpResponse:
    """Zero bytes are also refused on the way to the database; any other such error is ours, and stays one."""
    if "NUL" not in str(error) and "null character" not in str(error):
        raise error
    return beyond_the_database(request, error)


@api.exception_handler(ValidationError)
def not_valid(request: HttpRequest, error: Any) -> HttpResponse:
    first = error.errors[0]
    where = ".".join(str(p) for p in first["loc"][1:] if p not in ("body", "credentials", "values"))
    said = first["msg"].removeprefix("Value error, ")
    return api.create_response(request, {"message": f"{where}: {said}. Correct it and try again."}, status=422)


def _me(request: HttpRequest) -> s.Me:
    who = member(request)
    return s.Me(name=who.name, gym=who.gym.name, time_zone=who.gym.time_zone)


@api.get("/session", response=s.Session, auth=None)
def session(request: HttpRequest) -> s.Session:
    return s.Session(me=_me(request) if request.user.is_authenticated else None)


@api.post("/session", response={200: s.Me, 401: s.Problem, 403: s.Problem}, auth=None)
def sign_in(request: HttpRequest, credentials: s.Credentials) -> Any:
    if check_csrf(request, sign_in):  # or another page could sign a coach in as somebody else
        return Status(403, s.Problem(message="This page is out of date. Reload it, then sign in."))
    user = authenticate(request, username=credentials.user, password=credentials.password)
    if user is None:
        said = "That name and password do not match. After eight tries it locks for a quarter of an hour."
        return Status(401, s.Problem(message=said))
    login(request, user)
    get_token(request)
    return Status(200, _me(request))


@api.post("/session/password", response={200: s.Me, 422: s.Problem})
def change_password(request: HttpRequest, what: s.PasswordIn) -> s.Me:
    user = cast(User, request.user)
    if not user.check_password(what.old):
        raise BadInput("The old password is not that one.")
    try:
        validate_password(what.new, user)
    except PasswordRefused as error:
        raise BadInput(" ".join(error.messages)) from error
    user.set_password(what.new)
    user.save(update_fields=["password"])
    update_session_auth_hash(request, user)
    return _me(request)


@api.delete("/session", response={204: None})
def sign_out(request: HttpRequest) -> Any:
    logout(request)
    return Status(204, None)


def _measure(m: Measure) -> s.MeasureOut:
    names = ("name", "label", "unit", "decimals", "better", "meaning", "computed_from", "numeric")
    return s.MeasureOut(needs=list(m.needs), **{n: getattr(m, n) for n in names})


@api.get("/measures", response=s.Registry)
def measures(request: HttpRequest) -> s.Registry:
    return s.Registry(
        measures=[_measure(m) for m in MEASURES.values()],
        per_body_mass=[_measure(m) for n in GROWS_WITH_MASS if (m := find(n + PER_BODY_MASS))],
        flags=FLAG_MEANINGS,
        exclusion_reasons=list(review.REASONS),
        remarks=list(Remark.What.values),
        limbs=list(LIMBS),
        strike_codes=list(STRIKE_CODES),
        factors={f: list(levels) for f, levels in FACTORS.items()},
    )


# --- students


STANDING = Q(recordings__removed_at__isnull=True)


def _students(request: HttpRequest) -> Any:
    return (
        Student.objects.for_gym(gym(request))
        .select_related("gym")
        .annotate(
            recording_count=Count("recordings", filter=STANDING),
            last_at=Max("recordings__acquired_at", filter=STANDING),
        )
        .prefetch_related("stances", Prefetch("masses", queryset=BodyMass.objects.order_by("measured_on")))
    )


def _student(row: Any) -> dict[str, Any]:
    masses = list(row.masses.all())
    age = people.age_of(row.birth_date, row.gym.today)
    return {
        "id": row.pk,
        "name": row.name,
        "label": row.label,
        "stance": row.stance,
        "birth_date": row.birth_date,
        "age": age,
        "consent": row.consent,
        "counts_as_child": is_child(age),
        "stopped": no_consent(row.name, age, row.consent) or "",
        "version": row.version,
        "mass_kg": masses[-1].mass_kg if masses else None,
        "recordings": row.recording_count,
        "last_recording": row.last_at,
        "masses": [{"measured_on": m.measured_on, "mass_kg": m.mass_kg} for m in masses],
        "stances": [{"since": c.since, "stance": c.stance} for c in row.stances.all()],
    }


@api.get("/students", response=list[s.StudentOut])
def students(request: HttpRequest) -> list[dict[str, Any]]:
    return [_student(row) for row in _students(request)]


@api.post("/students", response={201: s.StudentPage, 422: s.Problem})
def add_student(request: HttpRequest, student: s.StudentIn) -> Any:
    own = gym(request)
    row = people.add_student(own, student.name, student.stance, student.birth_date, student.mass_kg, own.today)
    return Status(201, _student(_students(request).get(pk=row.pk)))


@api.get("/students/{student_id}", response=s.StudentPage)
def student(request: HttpRequest, student_id: int) -> dict[str, Any]:
    return _student(found(_students(request).filter(pk=student_id).first(), "student"))


@api.post("/students/{student_id}/masses", response={200: s.StudentPage, 422: s.Problem, 409: s.Problem})
def add_mass(request: HttpRequest, student_id: int, mass: s.MassIn) -> Any:
    row = found(_students(request).filter(pk=student_id).first(), "student")
    people.weigh(row, mass.mass_kg, mass.measured_on, gym(request).today, mass.was_kg)
    return _student(_students(request).get(pk=student_id))


@api.post("/students/{student_id}/stance", response={200: s.StudentPage, 422: s.Problem, 409: s.Problem})
def change_stance(request: HttpRequest, student_id: int, stance: s.StanceIn) -> Any:
    row = found(_students(request).filter(pk=student_id).first(), "student")
    people.set_stance(row, stance.stance, gym(request).today, stance.version)
    return _student(_students(request).get(pk=student_id))


@api.post("/students/{student_id}/consent", response={200: s.StudentPage, 422: s.Problem, 409: s.Problem})
def note_consent(request: HttpRequest, student_id: int, consent: s.ConsentIn) -> Any:
    row = found(_students(request).filter(pk=student_id).first(), "student")
    people.note_consent(row, consent.consent, gym(request).today, consent.version)
    return _student(_students(request).get(pk=student_id))


@api.post("/students/{student_id}/birth-date", response={200: s.StudentPage, 422: s.Problem, 409: s.Problem})
def note_birth(request: HttpRequest, student_id: int, birth: s.BirthIn) -> Any:
    row = found(_students(request).filter(pk=student_id).first(), "student")
    people.note_birth(row, birth.birth_date, gym(request).today, birth.version)
    return _student(_students(request).get(pk=student_id))


@api.post("/students/{student_id}/erase", response={204: None, 422: s.Problem})
def erase_student(request: HttpRequest, student_id: int, what: s.EraseIn) -> Any:
    """For good: a person's samples, strikes and all that was said of them."""
    removal.erase(gym(request), student_id, what.name)
    return Status(204, None)


# --- what was removed


@api.post("/removals", response={200: s.RemovedOut, 422: s.Problem})
def remove(request: HttpRequest, what: s.RemovalIn) -> removal.Removed:
    return removal.remove(gym(request), what.kind, what.id)


@api.post("/removals/undo", response={200: s.RemovedOut, 422: s.Problem})
def take_back(request: HttpRequest, what: s.RemovalIn) -> removal.Removed:
    return removal.take_back(gym(request), what.kind, what.id)


@api.get("/removals", response=list[s.RemovedOut])
def removals(request: HttpRequest) -> list[removal.Removed]:
    return removal.removed(gym(request))


# --- kit


def _version(v: BagVersion) -> dict[str, Any]:
    body = v.to_core()
    return {
        "id": v.pk,
        "since": v.since,
        "why": v.why,
        "level_bands_m": v.level_bands_m,
        "inertia_used_kg_m2": body.inertia_across_kg_m2,
        "bands_used_m": list(body.bands_m),
        **{f: getattr(v, f) for f in FIELDS},
    }


def _bag(row: Any) -> dict[str, Any]:
    versions = list(row.versions.all())
    body = versions[0].to_core()
    return {
        "id": row.pk,
        "name": row.name,
        "version": row.version,
        "current": _version(versions[0]),
        "versions": [_version(v) for v in versions],
        "costs": [s.CostOut(what=c.what, doubt=c.doubt, newtons=c.newtons, remedy=c.remedy) for c in kit.costs(body)],
        "height_doubt_mm": kit.height_doubt_mm(body),
        "recordings": row.recording_count,
    }


def _bags(request: HttpRequest) -> Any:
    return (
        Bag.objects.for_gym(gym(request))
        .annotate(
            recording_count=Count("versions__recordings", filter=Q(versions__recordings__removed_at__isnull=True))
        )
        .prefetch_related("versions")
    )


@api.get("/bags", response=list[s.BagOut])
def bags(request: HttpRequest) -> list[dict[str, Any]]:
    return [_bag(row) for row in _bags(request)]


@api.post("/bags", response={200: s.BagOut, 422: s.Problem, 409: s.Problem})
def save_bag(request: HttpRequest, bag: s.BagIn) -> Any:
    values = bag.values.model_dump()
    bands = values.pop("level_bands_m")
    if bands is not None and len(bands) != 2:
        raise BadInput("Bands are two heights below the top: where head ends and where body ends.")
    body = CoreBag(**values, level_bands_m=(bands[0], bands[1]) if bands else None)
    if bag.swing_period_s is not None:
        if not 0.3 <= bag.swing_period_s <= 10.0:
            raise BadInput(
                f"A swing of {bag.swing_period_s:g} s is not a bag's: time ten full swings and divide by ten."
            )
        body = kit.with_swing_time(body, bag.swing_period_s, bag.swing_period_sd_s)
    version = kit.save_version(
        gym(request), bag.id, bag.name, body, timezone.now(), bag.version, bag.always_so and bag.id is not None
    )
    return _bag(_bags(request).get(pk=version.bag_id))


@api.get("/units", response=list[s.KitUnitOut])
def kit_units(request: HttpRequest) -> list[dict[str, Any]]:
    own_gym = gym(request)
    newest: dict[str, Calibration] = {}
    for row in Calibration.objects.for_gym(own_gym).filter(kind="rests").order_by("made_at"):
        newest[row.placement] = row
    names = ("placement", "rate_hz", "accel_full_scale_m_s2", "gyro_full_scale_rad_s", "last_seen", "battery_pct")
    return [
        {
            **{n: getattr(u, n) for n in names},
            "calibrated_on": own_gym.day(newest[u.placement].made_at) if u.placement in newest else None,
            "expires_on": newest[u.placement].expires_on if u.placement in newest else None,
        }
        for u in Unit.objects.for_gym(own_gym)
    ]


FASTEST_BALL_M_S = 60.0
LARGEST_CALIBRATION_BYTES = 60_000_000


def _calibration(row: Calibration) -> dict[str, Any]:
    names = ("kind", "placement", "made_at", "expires_on", "result", "drawn")
    return {"id": row.pk, "bag": row.bag.name if row.bag else "", **{n: getattr(row, n) for n in names}}


@api.get("/calibrations", response=list[s.CalibrationOut])
def calibrations(request: HttpRequest) -> list[dict[str, Any]]:
    return [_calibration(r) for r in Calibration.objects.for_gym(gym(request)).select_related("bag")[:100]]


@api.post("/calibrations", response={201: s.CalibrationOut, 422: s.Problem})
def calibrate(
    request: HttpRequest,
    file: File[UploadedFile],
    kind: Query[str],
    placement: Query[str] = "",
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
    asked = Asked(kind, placement, bag_id, pivot_above_top_m, ball_kg, pairs)
    row = run_calibration(
        gym(request), asked, file.name or "recording", cast(IO[bytes], file.file), cast(User, request.user)
    )
    return Status(201, _calibration(row))


@api.get("/calibrations/{calibration_id}/touches", response={200: list[s.TouchedOut], 422: s.Problem})
def calibration_touches(request: HttpRequest, calibration_id: int) -> list[dict[str, Any]]:
    rows = touched(gym(request), calibration_id)
    return [{"id": r.pk, "student": r.student.name, "acquired_at": r.acquired_at, "task": r.task} for r in rows]


def _again(row: Reanalysis) -> dict[str, Any]:
    names = ("state", "progress", "message", "recordings", "results")
    return {"id": row.pk, **{n: getattr(row, n) for n in names}}


@api.post("/reanalyses", response={201: s.AgainOut, 422: s.Problem})
def analyse_again(request: HttpRequest, what: s.AgainIn) -> Any:
    return Status(201, _again(again.queue_again(gym(request), what.recordings, cast(User, request.user))))


@api.get("/reanalyses/{reanalysis_id}", response=s.AgainOut)
def reanalysis(request: HttpRequest, reanalysis_id: int) -> dict[str, Any]:
    return _again(found(Reanalysis.objects.for_gym(gym(request)).filter(pk=reanalysis_id).first(), "re-analysis"))


@api.post("/reanalyses/{reanalysis_id}/cancel", response={200: s.AgainOut, 422: s.Problem})
def cancel_again(request: HttpRequest, reanalysis_id: int) -> dict[str, Any]:
    return _again(again.cancel_again(gym(request), reanalysis_id))


# --- uploads


def _upload(row: Upload) -> dict[str, Any]:
    return {
        "id": row.pk,
        "file_name": row.file_name,
        "size_bytes": row.size_bytes,
        "student_id": row.student_id,
        "state": row.state,
        "stage": row.stage,
        "progress": row.progress,
        "message": row.message,
        "created_at": row.created_at,
        "recordings": [r.pk for r in row.recordings.all()],
    }


@api.post("/uploads", response={201: s.UploadOut, 422: s.Problem})
def upload(request: HttpRequest, file: File[UploadedFile], student_id: Query[int | None] = None) -> Any:
    owner = None
    if student_id is not None:
        owner = found(Student.objects.for_gym(gym(request)).filter(pk=student_id).first(), "student")
    row = intake.receive(
        gym(request), owner, cast(User, request.user), file.name or "upload", file.size or 0, cast(IO[bytes], file.file)
    )
    return Status(201, _upload(row))


@api.get("/uploads", response=list[s.UploadOut])
def uploads(request: HttpRequest) -> list[dict[str, Any]]:
    rows = Upload.objects.for_gym(gym(request)).prefetch_related("recordings")[:20]
    return [_upload(row) for row in rows]


@api.get("/uploads/{upload_id}", response=s.UploadOut)
def upload_state(request: HttpRequest, upload_id: int) -> dict[str, Any]:
    return _upload(found(Upload.objects.for_gym(gym(request)).filter(pk=upload_id).first(), "upload"))


@api.post("/uploads/{upload_id}/cancel", response=s.UploadOut)
def cancel_upload(request: HttpRequest, upload_id: int) -> dict[str, Any]:
    row = found(Upload.objects.for_gym(gym(request)).filter(pk=upload_id).first(), "upload")
    return _upload(intake.cancel(row))


# --- any logger's tables


def _table(row: ForeignFile) -> dict[str, Any]:
    seen = row.seen
    names = ("file_name", "state", "progress", "message", "version", "told")
    return {
        "id": row.pk,
        **{n: getattr(row, n) for n in names},
        "mapping": row.mapping or {"units": []},
        "questions": [{**q, "key": Question(**q).key} for q in row.questions],
        "told": [*row.told, *seen.get("turned", [])],
        **{n: seen.get(n, []) for n in ("columns", "word_columns", "preview", "against", "signals")},
        "profile": row.profile.name if row.profile else None,
        "places": list(PLACES),
        "accel_units": list(ACCEL_UNITS),
        "gyro_units": list(GYRO_UNITS),
        "sole_places": list(SOLE_PLACES),
        "load_units": list(LOAD_UNITS),
        "time_units": list(TIME_UNITS),
    }


@api.post("/tables", response={201: s.TableOut, 422: s.Problem})
def bring_table(request: HttpRequest, file: File[UploadedFile], student_id: Query[int | None] = None) -> Any:
    owner = None
    if student_id is not None:
        owner = found(Student.objects.for_gym(gym(request)).filter(pk=student_id).first(), "student")
    row = tables.receive_table(
        gym(request), cast(User, request.user), file.name or "table", file.size or 0, cast(IO[bytes], file.file), owner
    )
    return Status(201, _table(row))


@api.get("/students/{student_id}/tables", response=list[s.TableOut])
def waiting_tables(request: HttpRequest, student_id: int) -> list[dict[str, Any]]:
    """Tables that were brought for a student and are not imported yet."""
    owner = found(Student.objects.for_gym(gym(request)).filter(pk=student_id).first(), "student")
    return [_table(row) for row in tables.waiting(gym(request), owner)]


@api.get("/tables/{table_id}", response={200: s.TableOut, 422: s.Problem})
def table(request: HttpRequest, table_id: int) -> dict[str, Any]:
    return _table(tables.see(gym(request), table_id))


@api.put("/tables/{table_id}/mapping", response={200: s.TableOut, 422: s.Problem, 409: s.Problem})
def correct_table(request: HttpRequest, table_id: int, what: s.CorrectionIn) -> dict[str, Any]:
    row = tables.correct(gym(request), table_id, what.mapping.model_dump(), what.answered, what.version)
    return _table(row)


@api.delete("/tables/{table_id}", response={200: s.Changed, 422: s.Problem})
def leave_table(request: HttpRequest, table_id: int) -> s.Changed:
    return s.Changed(changed=tables.leave(gym(request), table_id))


@api.post("/table-imports", response={201: s.UploadOut, 422: s.Problem})
def import_tables(request: HttpRequest, what: s.TablesIn) -> Any:
    own_gym = gym(request)
    owner = found(Student.objects.for_gym(own_gym).filter(pk=what.student_id).first(), "student")
    version = None
    if what.bag_id is not None:
        version = found(BagVersion.objects.for_gym(own_gym).filter(bag_id=what.bag_id).first(), "bag")
    at = what.at.replace(tzinfo=own_gym.zone) if what.at is not None and what.at.tzinfo is None else what.at
    row = tables.import_tables(own_gym, owner, cast(User, request.user), what.ids, version, what.task, what.save_as, at)
    return Status(201, _upload(row))


# --- recordings and strikes


def _row(r: Recording) -> dict[str, Any]:
    return {
        "id": r.pk,
        "student_id": r.student_id,
        "session": r.session,
        "task": r.task,
        "run": r.run,
        "acquired_at": r.acquired_at,
        "length_s": r.length_s,
        "strikes": r.strike_count,
        "flags": r.flags,
    }


@api.get("/students/{student_id}/recordings", response=list[s.RecordingRow])
def recordings(request: HttpRequest, student_id: int) -> list[dict[str, Any]]:
    return [_row(r) for r in Recording.objects.for_gym(gym(request)).filter(student_id=student_id)]


@api.get("/recordings/{recording_id}", response=s.RecordingOut)
def recording(request: HttpRequest, recording_id: int) -> dict[str, Any]:
    rows = Recording.objects.for_gym(gym(request)).select_related("student", "bag_version__bag")
    r = found(rows.filter(pk=recording_id).first(), "recording")
    return {
        **_row(r),
        "student": r.student.name,
        "rate_hz": r.rate_hz,
        "analysis_version": r.analysis_version,
        "body_mass_kg": r.body_mass_kg,
        "units": r.units,
        "not_measured": r.not_measured,
        "events": r.events,
        "bursts": r.bursts,
        "mounting": r.mounting,
        "clocks": r.clocks,
        "bag_name": r.bag_version.bag.name if r.bag_version else None,
        "bag": _version(r.bag_version) if r.bag_version else None,
    }


def _set(row: StrikeSet) -> dict[str, Any]:
    names = ("code", "limb", "level", "levels", "school_id", "gear", "by_coach")
    return {"id": row.pk, "school": row.school.name if row.school else "", **{n: getattr(row, n) for n in names}}


@api.get("/recordings/{recording_id}/strikes", response=s.Strikes)
def strikes(request: HttpRequest, recording_id: int) -> HttpResponse:
    found(Recording.objects.for_gym(gym(request)).filter(pk=recording_id).first(), "recording")
    told = ("id", "number", "contact_s", "level", "set_id", "chain_order", "launch_ms", "flags", "version")
    names = (*told, "limb", "relabelled_limb", "excluded_reason", "note", *NUMERIC, *(f"{n}_sd" for n in NUMERIC))
    rows = list(Strike.objects.filter(recording_id=recording_id).order_by("number").values_list(*names))
    columns: dict[str, Any] = (
        dict(zip(names, zip(*rows, strict=True), strict=True)) if rows else dict.fromkeys(names, ())
    )
    sets = list(StrikeSet.objects.filter(recording_id=recording_id).select_related("school"))
    values = {row.pk: row.value for row in sets}
    remarks: dict[int, list[str]] = {}
    for strike_id, what in Remark.objects.filter(strike__recording_id=recording_id).values_list("strike_id", "what"):
        remarks.setdefault(strike_id, []).append(what)
    had = [n for n in NUMERIC if any(v is not None for v in columns[n])]
    # validated by the database's own types: five thousand strikes are not worth a second check
    content = {
        **{n: columns[n] for n in told},
        "limb": [b or a for a, b in zip(columns["limb"], columns["relabelled_limb"], strict=True)],
        "planned": [values.get(i, "") for i in columns["set_id"]],
        "remarks": [remarks.get(i, []) for i in columns["id"]],
        "notes": columns["note"],
        "sets": [_set(row) for row in sets],
        "excluded": columns["excluded_reason"],
        "values": {n: _short(columns[n], VALUE_DIGITS) for n in had},
        "sds": {n: _short(columns[f"{n}_sd"], SD_DIGITS) for n in had},
    }
    return HttpResponse(to_json(content, inf_nan_mode="null"), content_type="application/json")


def _short(column: Sequence[float | None], significant: int) -> list[float]:
    """Figures as long as a screen shows them, NaN for absent ones: five thousand strikes have half a million."""
    values = np.array(column, dtype=np.float64)
    with np.errstate(divide="ignore", invalid="ignore"):
        size = 10.0 ** (significant - 1 - np.floor(np.log10(np.abs(values))))
        short = np.where(np.isfinite(size), np.round(values * size) / size, values)
    return cast(list[float], short.tolist())


@api.post("/strikes/label", response={200: s.SetOut, 422: s.Problem, 409: s.Problem})
def label(request: HttpRequest, what: s.LabelIn) -> dict[str, Any]:
    text = review.SetText(what.code, what.limb, what.level, what.levels, what.school_id, what.gear)
    return _set(review.label(gym(request), what.seen, text))


@api.post("/strikes/label/undo", response={200: s.Changed, 422: s.Problem, 409: s.Problem})
def undo_label(request: HttpRequest, what: s.PutBackIn) -> s.Changed:
    seen = {b.id: b.version for b in what.strikes}
    before = {b.id: (b.set_id, b.limb) for b in what.strikes}
    return s.Changed(changed=review.put_back(gym(request), seen, before))


@api.post("/strikes/{strike_id}/remarks", response={200: s.Changed, 422: s.Problem})
def remark(request: HttpRequest, strike_id: int, what: s.RemarkIn) -> s.Changed:
    return s.Changed(changed=int(review.remark(gym(request), strike_id, what.what, what.on, cast(User, request.user))))


@api.put("/strikes/{strike_id}/note", response={200: s.Changed, 422: s.Problem, 409: s.Problem})
def note(request: HttpRequest, strike_id: int, what: s.NoteIn) -> s.Changed:
    review.write_note(gym(request), strike_id, what.text, what.version)
    return s.Changed(changed=1)


@api.get("/strikes/{strike_id}/absent", response={200: dict[str, str], 422: s.Problem})
def absent(request: HttpRequest, strike_id: int) -> dict[str, str]:
    return review.absent_of(gym(request), strike_id)


@api.get("/strikes/{strike_id}/judgement", response={200: s.JudgementOut, 422: s.Problem})
def judgement(request: HttpRequest, strike_id: int) -> s.JudgementOut:
    told = review.judgement(gym(request), strike_id)
    return s.JudgementOut(
        school=told.school.name if told.school else None,
        checks=[
            s.JudgedOut(
                name=j.check.name,
                measure=j.check.measure,
                low=j.check.low,
                high=j.check.high,
                verdict=j.verdict,
                value=j.value.value if j.value else None,
                sd=j.value.sd if j.value else None,
                order=core_schools.order_in_words(j.order, told.limb) if j.order else None,
            )
            for j in told.checks
        ],
        objections=[s.ObjectionOut(school=name, words=words) for name, words in told.objections],
    )


def _stance(row: Recording) -> str:
    """How the student stood on that day."""
    return row.stance or people.stance_on(row.student, row.gym.day(row.acquired_at))


@api.get("/strikes/{strike_id}/lanes", response={200: s.LanesOut, 422: s.Problem})
def lanes(request: HttpRequest, strike_id: int, under: Query[str] = "") -> s.LanesOut:
    """`under` is empty, `set` for the mean of its set, or the id of another strike."""
    own_gym = gym(request)
    rows = Strike.objects.for_gym(own_gym).select_related("recording__student", "recording__gym")
    strike = found(rows.filter(pk=strike_id).first(), "strike")
    below: dict[str, list[float]] = {}
    if under == "set":
        below = review.mean_lanes(own_gym, strike_id)
    elif under.isascii() and under.isdigit() and int(under) <= LARGEST_ID:
        below = review.lanes(own_gym, int(under)) or {}
    return s.LanesOut(
        ms=(1e3 * TIMES_S).round(3).tolist(),
        own=review.lanes(own_gym, strike_id) or {},
        under=below,
        under_what=under if below else "",
        lead="right" if _stance(strike.recording) == "southpaw" else "left",
    )


# --- schools


def _school(row: School) -> dict[str, Any]:
    checks = [{n: getattr(c, n) for n in ("name", "measure", "low", "high", "strikes")} for c in row.checks.all()]
    names = ("name", "belief", "objects_to", "version")
    return {"id": row.pk, **{n: getattr(row, n) for n in names}, "checks": checks}


@api.get("/schools", response=list[s.SchoolOut])
def schools(request: HttpRequest) -> list[dict[str, Any]]:
    return [_school(row) for row in playbook.schools(gym(request))]


def _save_school(request: HttpRequest, school_id: int | None, text: s.SchoolIn) -> dict[str, Any]:
    checks = [core_schools.Check(c.name, c.measure, c.low, c.high, tuple(c.strikes)) for c in text.checks]
    told = playbook.SchoolText(text.name, text.belief, text.objects_to, checks)
    row = playbook.save(gym(request), school_id, told, text.version)
    return _school(School.objects.prefetch_related("checks").get(pk=row.pk))


@api.post("/schools", response={200: s.SchoolOut, 422: s.Problem})
def add_school(request: HttpRequest, school: s.SchoolIn) -> dict[str, Any]:
    return _save_school(request, None, school)


@api.put("/schools/{school_id}", response={200: s.SchoolOut, 422: s.Problem, 409: s.Problem})
def save_school(request: HttpRequest, school_id: int, school: s.SchoolIn) -> dict[str, Any]:
    return _save_school(request, school_id, school)


@api.get("/recordings/{recording_id}/strikes.csv", include_in_schema=False)
def strikes_csv(request: HttpRequest, recording_id: int) -> HttpResponse:
    r = _recording(request, recording_id)
    return attached(as_csv(review.table(r)), "text/csv; charset=utf-8", f"{_file_name(r)}-strikes.csv")


@api.get("/recordings/{recording_id}/strikes.parquet", include_in_schema=False)
def strikes_parquet(request: HttpRequest, recording_id: int) -> HttpResponse:
    r = _recording(request, recording_id)
    return attached(review.as_parquet(r), "application/vnd.apache.parquet", f"{_file_name(r)}-strikes.parquet")


@api.get("/recordings/{recording_id}/motion-bids.zip", include_in_schema=False)
def motion_bids(request: HttpRequest, recording_id: int) -> HttpResponse:
    r = _recording(request, recording_id)
    return attached(tables.zipped(raw(r)), "application/zip", f"{_file_name(r)}.zip")


def _recording(request: HttpRequest, recording_id: int) -> Recording:
    """To hand out: what may not be recorded of a child is not handed out either."""
    rows = Recording.objects.for_gym(gym(request)).select_related("student", "bag_version__bag")
    row = found(rows.filter(pk=recording_id).first(), "recording")
    people.allow(row.student, gym(request).today)
    return row


def _file_name(r: Recording) -> str:
    return f"{r.student.label}-{r.acquired_at:%Y-%m-%d}-{r.task}"


@api.post("/strikes/exclude", response={200: s.Changed, 422: s.Problem, 409: s.Problem})
def exclude(request: HttpRequest, what: s.ExcludeIn) -> s.Changed:
    return s.Changed(changed=review.exclude(gym(request), what.seen, what.reason, cast(User, request.user)))


@api.post("/strikes/restore", response={200: s.Changed, 422: s.Problem, 409: s.Problem})
def restore(request: HttpRequest, what: s.RestoreIn) -> s.Changed:
    return s.Changed(changed=review.restore(gym(request), what.seen))


@api.get("/curves", response={200: list[s.CurveOut], 422: s.Problem})
def curves(request: HttpRequest, ids: Query[list[int]]) -> Any:
    ids = [i for i in ids if 0 < i <= LARGEST_ID]
    return [
        s.CurveOut(
            strike_id=f.strike.pk,
            number=f.strike.number,
            ms=f.curve.ms.round(3).tolist(),
            force_n=None if f.curve.force_n is None else f.curve.force_n.round(1).tolist(),
            shape=f.curve.shape.round(4).tolist(),
            end_ms=f.curve.end_ms,
            peak_ms=f.curve.peak_ms,
            rise_from_ms=f.curve.rise_from_ms,
            rise_to_ms=f.curve.rise_to_ms,
            cut_off_hz=f.curve.cut_off_hz,
        )
        for f in review.force_curves(gym(request), ids)
    ]
