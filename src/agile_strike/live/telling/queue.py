"""What is asked of the queue."""

from agile_strike.intake.queue import ask_once
from agile_strike.live.models import Take


def settle_soon(take: Take, in_s: float = 0.0) -> None:
    ask_once("settle_take", f"take {take.pk}", in_s, take_id=take.pk)
