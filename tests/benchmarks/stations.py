"""How long from contact at the bag to the figure on the screen, with several stations at once, and what it costs.

By hand, against a running demo: python tests/benchmarks/stations.py --stations 10 --seconds 90 [--browser]. Hubs are
played in this process, each by the reference hub over its WebSocket; contacts are those of the batch's own analysis.
"""

import argparse
import asyncio
import contextlib
import http.cookiejar
import json
import tempfile
import threading
import time
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np

from agile_strike.core.analysis import analyse
from agile_strike.core.recording import Participant, Recording
from agile_strike.core.simulation.plan import Evening, SetPlan, simulate
from agile_strike.core.simulation.wear import WearMess
from agile_strike.hub.run import Hub
from agile_strike.hub.sources import Replay
from agile_strike.hub.spool import Spool
from agile_strike.hub.student import USUAL_BAG

WORN = ("leftwrist", "rightwrist", "pelvis", "torso", "leftsole", "rightsole")
CHROMIUM = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking".split()


class Coach:
    def __init__(self, url: str) -> None:
        self.url = url
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.opener.open(url).read()
        self.ask("POST", "session", {"user": "ottoline", "password": "boathouse"})

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        token = next((c.value or "" for c in self.jar if c.name == "csrftoken"), "")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Referer": self.url}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.url}/api/{path}", data, headers, method=method)
        with self.opener.open(request) as answer:
            content = answer.read()
        return json.loads(content) if content else None


def evening(seconds: float, seed: int) -> Recording:
    mess = WearMess(trunk_rate_hz=200.0, sole_rate_hz=200.0)
    plan = SetPlan("rear-straight", "right_hand", "head", int((seconds - 16) / 2.6), gap_s=2.6)
    who = Participant("01", 70.0, None, None, "orthodox")
    planned = Evening(USUAL_BAG, (plan,), who, bumps=4, worn=WORN, wear_mess=mess)
    return simulate(planned, np.random.default_rng(seed)).recording


def listen(coach: Coach, heard: list[tuple[float, dict[str, Any]]]) -> None:
    for line in coach.opener.open(f"{coach.url}/api/live/events"):
        if line.startswith(b"data:"):
            heard.append((time.time(), json.loads(line[5:])))  # noqa: PERF401  (others read it meanwhile)


def seconds_used(pids: list[int]) -> float:
    total = 0.0
    for pid in pids:
        with contextlib.suppress(OSError):
            parts = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
            total += (int(parts[11]) + int(parts[12])) / 100.0
    return total


async def play(hubs: list[tuple[float, Hub]]) -> None:
    async def one(after_s: float, hub: Hub) -> None:
        await asyncio.sleep(after_s)
        hub.spool.place.began_at = time.time()
        await hub.run()

    await asyncio.gather(*(one(a, h) for a, h in hubs))


QUIET_S = 3.0  # after the last strike that was told: its rest is told 2.7 s after its contact


def watched(
    url: str, student: int, station: int, seen: list[float], begun: threading.Event, stop: threading.Event
) -> None:
    """The figure of one station's page, as it changes: seconds of this machine's clock."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as p:
        page = p.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM).new_page()
        page.goto(url)
        page.get_by_label("Name").fill("ottoline")
        page.get_by_label("Password").fill("boathouse")
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Students").wait_for()
        page.evaluate(f"localStorage.setItem('station', '{station}')")
        page.goto(f"{url}/students/{student}/measure")
        page.locator("[data-figure]").wait_for()
        page.evaluate(
            """() => {
              window.seen = [];
              const look = () => {
                const figure = document.querySelector('[data-figure]');
                const now = figure ? figure.dataset.figure : '';
                if (now === window.last) return;
                window.last = now;
                requestAnimationFrame(() => window.seen.push(Date.now() / 1000));
              };
              new MutationObserver(look).observe(document.body, { subtree: true, childList: true, attributes: true });
              look();
            }"""
        )
        begun.set()
        stop.wait()
        seen.extend(page.evaluate("window.seen"))


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--url", default="http://127.0.0.1:8000")
    parser.add_argument("--stations", type=int, default=10)
    parser.add_argument("--seconds", type=float, default=90.0)
    parser.add_argument("--pids", default="", help="of web, live worker and database, with commas: their CPU is told")
    parser.add_argument("--browser", action="store_true")
    options = parser.parse_args()
    coach = Coach(options.url)
    bag = coach.ask("GET", "bags")[0]["id"]
    students = [s["id"] for s in coach.ask("GET", "students") if not s["stopped"]]
    recordings = [evening(options.seconds, seed) for seed in (1, 2)]
    contacts = [[s.contact_s for s in analyse(r).strikes] for r in recordings]
    names = [f"bench {time.time_ns() % 10**9}-{k}" for k in range(options.stations)]
    made = [coach.ask("POST", "stations", {"name": name, "bag_id": bag}) for name in names]
    heard: list[tuple[float, dict[str, Any]]] = []
    threading.Thread(target=listen, args=(coach, heard), daemon=True).start()
    takes = {}
    for k, station in enumerate(made):
        page = coach.ask("POST", f"stations/{station['id']}/takes", {"student_id": students[k % len(students)]})
        text = {"code": "rear-straight", "limb": "right_hand", "level": "head", "strikes": 40}
        at = time.strftime("%Y-%m-%dT%H:%M:%S+00:00", time.gmtime())
        coach.ask("POST", f"takes/{page['id']}/sets", {"at": at, "text": text})
        takes[page["id"]] = (k, page["student_id"])
    folder = Path(tempfile.mkdtemp())
    hubs = [
        (0.37 * k, Hub(Replay(recordings[k % 2]), Spool(folder / str(k)), options.url, made[k]["token"], say=print))
        for k in range(options.stations)
    ]
    seen: list[float] = []
    begun, stop = threading.Event(), threading.Event()
    browser = threading.Thread(target=watched, args=(options.url, students[0], made[0]["id"], seen, begun, stop))
    if options.browser:
        browser.start()
        begun.wait()
    pids = [int(p) for p in options.pids.split(",") if p]
    before, began = seconds_used(pids), time.time()
    asyncio.run(play(hubs))
    took, used = time.time() - began, seconds_used(pids) - before
    # until no strike is told any more: what is late is to be counted as late, not as missed
    while time.time() - max((at for at, e in heard if e["kind"] == "strike"), default=0.0) < QUIET_S:
        time.sleep(0.1)
    stop.set()
    late, when, missed, shown = [], [], 0, []
    for take, (k, _) in takes.items():
        earliest = min(u.starts_s or 0.0 for u in recordings[k % 2].units.values())
        zero = hubs[k][1].spool.place.began_at - earliest
        own = [(at, e) for at, e in heard if e.get("take") == take and e["kind"] == "strike" and not e["whole"]]
        for contact in contacts[k % 2]:
            near = [at - (zero + contact) for at, e in own if abs(e["contact_s"] - contact) < 0.1]
            if near:
                late.append(min(near))
                when.append((zero + contact - began, k))
            else:
                missed += 1
        if k == 0 and options.browser:
            browser.join()
            shown = [min((s - zero - c for s in seen if 0 < s - zero - c < 2.0), default=np.nan) for c in contacts[0]]
    ms = 1e3 * np.array(late)
    print(f"{options.stations} stations, {took:.0f} s, {len(ms)} strikes told, {missed} not before they were settled")
    print(f"contact to event: median {np.median(ms):.0f} ms, 95th {np.percentile(ms, 95):.0f}, most {ms.max():.0f}")
    worst = ", ".join(f"{ms[n]:.0f} ms at {when[n][0]:.1f} s of station {when[n][1]}" for n in np.argsort(-ms)[:5])
    print(f"the latest: {worst}")
    if shown:
        print(
            f"contact to screen: median {1e3 * np.nanmedian(shown):.0f} ms, "
            f"95th {1e3 * np.nanpercentile(shown, 95):.0f}"
        )
    units = recordings[0].units
    size = sum(len(u.accel_m_s2) * (24 if u.sole_n is None else 8) for u in units.values()) / units["bag"].length_s
    share = 100 * used / took / options.stations
    print(f"samples: {size / 1e3:.0f} kB a second and station; server's CPU: {share:.1f} % of a core each")
    # what is left behind would be measured along with the next run
    for take in takes:
        coach.ask("POST", f"takes/{take}/end")
    for station in made:
        coach.ask("DELETE", f"stations/{station['id']}")
    while any(coach.ask("GET", f"takes/{take}")["settled_s"] < 0.8 * options.seconds for take in takes):
        time.sleep(2)


if __name__ == "__main__":
    main()
