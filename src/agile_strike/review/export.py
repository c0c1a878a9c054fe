"""Strikes of a recording as a flat table."""

import io

import pyarrow as pa
import pyarrow.parquet as pq

from agile_strike.capture.models import Recording
from agile_strike.formats.results import MEASURE_COLUMNS, Row, flat
from agile_strike.review.models import Strike


def table(recording: Recording) -> pa.Table:
    """Strikes of a recording as a flat table, thrown-out ones with their reason."""
    rows = Strike.objects.filter(recording=recording).select_related("set__school").prefetch_related("remarks")
    first = (recording.student.label, recording.session_label, recording.task, recording.run)
    return flat((_row(row, first) for row in rows.order_by("number")), said=True)


def _row(row: Strike, first: tuple[str, str, str, str]) -> Row:
    given = row.set
    said = (
        row.excluded_reason,
        row.note,
        given.value if given else "",
        given.school.name if given and given.school else "",
        " ".join(r.what.replace(" ", "-") for r in row.remarks.all()),
    )
    return Row(
        first=first,
        number=row.number,
        contact_s=row.contact_s,
        limb=row.limb_said,
        kind=row.kind,
        level=row.level,
        chain_order=row.chain_order,
        measures=[getattr(row, name) for name in MEASURE_COLUMNS],
        flags=row.flags,
        said=said,
    )


def as_parquet(recording: Recording) -> bytes:
    """The table as Parquet, words as words."""
    out = io.BytesIO()
    pq.write_table(table(recording), out, compression="zstd")
    return out.getvalue()
