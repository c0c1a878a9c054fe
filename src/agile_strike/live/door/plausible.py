"""Whether a packet's sample numbers can be: a line that garbles one digit would else ask for hours of samples.

A unit measures as many samples in a second as it said. Since its latest ones the hub's clock has gone on by so much,
and no further can its numbers be, but for what clocks differ by and what was on its way.
"""

from dataclasses import dataclass, field

from agile_strike.formats.packets import BadPacket, Opening, Packet

AHEAD_S = 10.0  # of what its rate and the hub's clock would allow
FASTER = 1.1  # than its nominal rate


@dataclass(slots=True)
class Numbers:
    """Of one stream, as far as this process has seen it: where each unit's samples were, and when."""

    opening: Opening
    latest: dict[str, tuple[int, float]] = field(default_factory=dict)

    def refuse(self, packet: Packet) -> None:
        """Raises BadPacket for one whose samples can't have been measured yet; notes the others."""
        for place, part in packet.units.items():
            facts = self.opening.units.get(place)
            if facts is None or place not in self.latest:
                continue
            upto, at_s = self.latest[place]
            gone_s = FASTER * self.opening.speed * max(0.0, packet.hub_s - at_s) + AHEAD_S
            if part.first > upto + gone_s * facts.rate_hz:
                raise BadPacket(
                    f"numbers samples of {place} {part.first}, after {upto}",
                    "Number samples one by one; leave out as many as never came.",
                )
        self.note(packet)

    def note(self, packet: Packet) -> None:
        for place, part in packet.units.items():
            upto = part.first + part.count
            if upto > self.latest.get(place, (-1, 0.0))[0]:
                self.latest[place] = (upto, packet.hub_s)
