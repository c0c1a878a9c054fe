"""Who tries one name after the other is slowed: axes locks a name, this an address, and never for longer than a minute.

A gym's tablets often share one address, so that a lock of a quarter of an hour would keep its coaches out.
"""

import datetime as dt
from dataclasses import dataclass

from axes.helpers import get_client_ip_address
from axes.models import AccessAttempt
from django.conf import settings
from django.db.models import Max, Sum
from django.http import HttpRequest
from django.utils import timezone


@dataclass(frozen=True, slots=True, kw_only=True)
class Slowing:
    """Twenty coaches who each mistype once in a quarter of an hour notice nothing."""

    failures: int = 20  #: from one address, over all names, that cost nothing
    over: dt.timedelta = dt.timedelta(minutes=15)
    first_s: float = 1.0  #: after the next one; doubled with each
    most_s: float = 60.0


SLOWING = Slowing()


def wait_s(request: HttpRequest, rule: Slowing = SLOWING) -> float:
    """How long an address has to wait before it may try again; 0 where it may now."""
    if not settings.AXES_ENABLED:
        return 0.0
    now = timezone.now()
    rows = AccessAttempt.objects.filter(ip_address=get_client_ip_address(request), attempt_time__gt=now - rule.over)
    came = rows.aggregate(failed=Sum("failures_since_start"), last=Max("attempt_time"))
    beyond = (came["failed"] or 0) - rule.failures
    if beyond < 0:
        return 0.0
    pause = min(rule.first_s * 2.0 ** min(beyond, 30), rule.most_s)
    return float(max(pause - (now - came["last"]).total_seconds(), 0.0))
