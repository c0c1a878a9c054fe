"""Twenty coaches clicking through the main views of a running demo, two seconds between clicks.

.venv/bin/python tests/benchmarks/coaches.py http://127.0.0.1:8000 [coaches] [seconds] [calendars]

With calendars, as many others send one after the other that asks for years of work, all the while. Prints how long
answers took, by address and in all, what went wrong, and the memory of processes given by id.
"""

import http.client
import json
import random
import sys
import threading
import time
from collections import Counter, defaultdict
from dataclasses import dataclass, field
from statistics import quantiles
from typing import Any
from urllib.parse import urlsplit

BETWEEN_S = 2.0
USER, PASSWORD = "ottoline", "boathouse"


@dataclass
class Told:
    """What was measured, by kind of address."""

    took_s: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    wrong: list[str] = field(default_factory=list)
    calendars: Counter[int] = field(default_factory=Counter)  #: what hostile ones were answered
    lock: threading.Lock = field(default_factory=threading.Lock)


class Coach:
    """One browser: a session, and the requests that a page makes."""

    def __init__(self, base: str, told: Told) -> None:
        parts = urlsplit(base)
        self.line = http.client.HTTPConnection(parts.hostname or "", parts.port, timeout=30)
        self.told, self.cookies = told, {}
        self.get("/students")
        self.ask("POST", "/api/session", {"user": USER, "password": PASSWORD})
        self.students = self.get("/api/students")

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        cookie = "; ".join(f"{k}={v}" for k, v in self.cookies.items())
        headers = {
            "Cookie": cookie,
            "X-CSRFToken": self.cookies.get("csrftoken", ""),
            "Content-Type": "application/json",
        }
        began = time.perf_counter()
        self.line.request(method, path, json.dumps(body) if body else None, headers)
        answer = self.line.getresponse()
        content = answer.read()
        kind = "".join("#" if c.isdigit() else c for c in path.split("?")[0])
        with self.told.lock:
            self.told.took_s[kind].append(time.perf_counter() - began)
            if answer.status >= 400:
                self.told.wrong.append(f"{answer.status} {path}")
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                key, _, rest = value.partition("=")
                self.cookies[key] = rest.split(";")[0]
        return json.loads(content) if "json" in (answer.getheader("Content-Type") or "") else None

    def get(self, path: str) -> Any:
        return self.ask("GET", path)

    def click(self, rng: random.Random) -> None:
        """One page: all that it fetches, over a new connection as after a pause."""
        self.line.close()
        who = rng.choice(self.students)["id"]
        page = rng.choice((self.read, self.read, self.compare, self.weeks, self.evening, self.around))
        page(who, rng)

    def read(self, who: int, rng: random.Random) -> None:
        recordings = self.get(f"/api/students/{who}/recordings")[:2]
        if not recordings:
            return  # of a child without consent nothing is there
        recording = rng.choice(recordings)["id"]
        self.get(f"/api/recordings/{recording}")
        strikes = self.get(f"/api/recordings/{recording}/strikes")["id"]
        self.get(f"/api/strikes/{rng.choice(strikes)}?under=set")

    def compare(self, who: int, rng: random.Random) -> None:
        own = [t["id"] for t in self.get("/api/trials") if who in t["students"]]
        if own:
            self.get(f"/api/trials/{rng.choice(own)}/compare?student_id={who}")

    def weeks(self, who: int, rng: random.Random) -> None:
        self.get(f"/api/students/{who}/weeks?measure={rng.choice(('impulse_n_s', 'peak_force_n'))}")

    def evening(self, who: int, rng: random.Random) -> None:
        self.get(f"/api/evenings/{rng.choice(self.get(f'/api/students/{who}/evenings'))['id']}")

    def hostile_calendar(self, rng: random.Random) -> int:
        """A calendar that asks for years of work; what is answered."""
        every = [",".join(map(str, range(n))) for n in (24, 60, 60)]
        rules = (
            f"FREQ=DAILY;BYHOUR={every[0]};BYMINUTE={every[1]};BYSECOND={every[2]}",
            "FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31",
            "FREQ=DAILY;INTERVAL=0",
            "FREQ=DAILY",
        )
        event = "BEGIN:VEVENT\r\nUID:{}\r\nSUMMARY:Endless\r\nDTSTART:19000101T180000\r\nRRULE:{}\r\nEND:VEVENT\r\n"
        rule = rng.choice(rules)
        events = "".join(event.format(k, rule) for k in range(2000 if rule == rules[-1] else 1))
        edge = "edge-of-a-part"
        body = (
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.ics"\r\n\r\n'
            f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n{events}END:VCALENDAR\r\n\r\n--{edge}--\r\n"
        )
        headers = {
            "Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()),
            "X-CSRFToken": self.cookies.get("csrftoken", ""),
            "Content-Type": f"multipart/form-data; boundary={edge}",
        }
        who = rng.choice(self.students)["id"]
        self.line.close()
        self.line.request("POST", f"/api/students/{who}/plan/calendar?monday=2030-01-07", body.encode(), headers)
        answer = self.line.getresponse()
        answer.read()
        return answer.status

    def around(self, who: int, rng: random.Random) -> None:
        for path in ("/api/class", "/api/bags", "/api/units", "/api/schools"):
            self.get(path)


def run(base: str, coaches: int, seconds: float, calendars: int = 0) -> Told:
    told = Told()
    # one after the other: a password takes long on purpose
    signed_in = [Coach(base, told) for _ in range(coaches)]
    senders = [Coach(base, told) for _ in range(calendars)]
    told.took_s.clear()
    until = time.monotonic() + seconds

    def one(seed: int) -> None:
        rng, coach = random.Random(seed), signed_in[seed]
        time.sleep(rng.random() * BETWEEN_S)
        try:
            while time.monotonic() < until:
                coach.click(rng)
                time.sleep(BETWEEN_S)
        except Exception as error:
            with told.lock:
                told.wrong.append(repr(error))

    def send(seed: int) -> None:
        rng = random.Random(seed)
        while time.monotonic() < until:
            status = senders[seed].hostile_calendar(rng)
            with told.lock:
                told.calendars[status] += 1

    threads = [threading.Thread(target=one, args=(k,)) for k in range(coaches)]
    threads += [threading.Thread(target=send, args=(k,)) for k in range(calendars)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return told


def main() -> None:
    base = sys.argv[1]
    coaches = int(sys.argv[2]) if len(sys.argv) > 2 else 20
    seconds = float(sys.argv[3]) if len(sys.argv) > 3 else 60.0
    told = run(base, coaches, seconds, int(sys.argv[4]) if len(sys.argv) > 4 else 0)
    for kind, took in sorted(told.took_s.items(), key=lambda kv: -max(kv[1])):
        print(
            f"{kind:45} {len(took):6}  median {1e3 * sorted(took)[len(took) // 2]:6.0f} ms, most {1e3 * max(took):6.0f}"
        )
    every = [t for took in told.took_s.values() for t in took]
    cut = quantiles(every, n=100)
    print(f"{len(every)} answers, median {1e3 * cut[49]:.0f} ms, 95th {1e3 * cut[94]:.0f}, 99th {1e3 * cut[98]:.0f}")
    if told.calendars:
        print("hostile calendars:", ", ".join(f"{n} answered {status}" for status, n in sorted(told.calendars.items())))
    print(f"{len(told.wrong)} went wrong", *told.wrong[:5], sep="\n  ")


if __name__ == "__main__":
    main()
