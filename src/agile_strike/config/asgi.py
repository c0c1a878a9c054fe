"""The server's entry point."""

import os
import warnings

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "agile_strike.config.settings")
os.environ["AGILE_STRIKE_WEB"] = "1"
# files of the web application are small and in the page cache: handing them over in a thread is fine
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
django_application = get_asgi_application()
# these need the applications to be set up
from agile_strike.config.doorman import Doorman, Patient  # noqa: E402
from agile_strike.live.door.gateway import Gateway  # noqa: E402

application = Gateway(Patient(Doorman(django_application)))
