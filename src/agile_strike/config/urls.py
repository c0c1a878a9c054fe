"""Addresses: the API, and the web application for everything else without a dot."""

from django.urls import path, re_path

from agile_strike.config.api import api
from agile_strike.config.web import failed, page
from agile_strike.live.screens.events import events
from agile_strike.reports.api import by_link

urlpatterns = [
    path("api/live/events", events),
    path("api/", api.urls),
    path("r/<str:token>", by_link),
    re_path(r"^(?P<path>[^.]*)$", page),
]

handler500 = failed
