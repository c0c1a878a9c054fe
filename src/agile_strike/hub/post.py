"""The way by POST, where a network lets no WebSocket through."""

import http.client
from typing import Any
from urllib.parse import urlsplit

import cbor2

from agile_strike.formats.packets import Opening

TIMEOUT_S = 10.0


class Refused(Exception):
    def __init__(self, status: int) -> None:
        super().__init__(f"the server answered with {status}")
        self.status = status


def post(server: str, token: str, opening: Opening, packets: list[bytes]) -> dict[str, Any]:
    """Send packets; what the server said. Raises Refused, OSError."""
    at = urlsplit(server)
    kind = http.client.HTTPSConnection if at.scheme == "https" else http.client.HTTPConnection
    connection = kind(at.hostname or "127.0.0.1", at.port, timeout=TIMEOUT_S)
    body = cbor2.dumps({"open": opening.said(), "packets": packets})
    headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/cbor"}
    try:
        connection.request("POST", "/api/gateway/packets", body, headers)
        answer = connection.getresponse()
        content = answer.read()
        if answer.status != 200:
            raise Refused(answer.status)
        said = cbor2.loads(content)
    except http.client.HTTPException as error:
        raise OSError(str(error)) from error
    finally:
        connection.close()
    return said if isinstance(said, dict) else {}
