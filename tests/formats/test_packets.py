"""What a hub may send, and what is said of the rest."""

import contextlib

import cbor2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from agile_strike.formats.gathered import Gathered
from agile_strike.formats.packets import (
    LARGEST_BYTES,
    MOST_ITEMS,
    BadPacket,
    Packet,
    Part,
    UnitFacts,
    decode,
    encode,
    number_in,
    read,
)

FACTS = UnitFacts(rate_hz=100.0)


def samples(n: int, seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    return rng.standard_normal((n, 3)).astype(np.float32), rng.standard_normal((n, 3)).astype(np.float32)


def test_a_packet_is_read_as_it_was_written() -> None:
    accel, gyro = samples(40)
    accel[3] = np.nan  # a sample that never came
    sent = Packet(
        number=7,
        hub_s=1.5,
        units={"bag": Part(first=120, accel=accel, gyro=gyro), "leftsole": Part(first=12, sole=accel[:, :2])},
        battery_pct={"bag": 91.0},
        clock=(3.25, 0.004),
    )
    read = decode(encode(sent))
    assert (read.number, read.hub_s, read.battery_pct, read.clock) == (7, 1.5, {"bag": 91.0}, (3.25, 0.004))
    assert np.array_equal(read.units["bag"].accel, accel, equal_nan=True)
    assert read.units["leftsole"].sole.shape == (40, 2)


@given(st.lists(st.tuples(st.integers(0, 90), st.integers(1, 30)), min_size=1, max_size=30), st.randoms())
def test_in_whatever_order_and_however_often_they_come_samples_are_the_same(parts: list, chance: object) -> None:
    accel, gyro = samples(120)
    whole = Gathered("bag", FACTS, 0)
    whole.put(Part(first=0, accel=accel, gyro=gyro))
    covered = np.zeros(120, bool)
    one = Gathered("bag", FACTS, 0)
    for first, n in parts:
        one.put(Part(first=first, accel=accel[first : first + n], gyro=gyro[first : first + n]))
        covered[first : first + n] = True
    got, all_of_it = one.signal(0, 120), whole.signal(0, 120)
    n = len(got.accel_m_s2)
    assert n == np.flatnonzero(covered)[-1] + 1
    assert np.array_equal(got.accel_m_s2[covered[:n]], all_of_it.accel_m_s2[:n][covered[:n]])
    assert np.isnan(got.accel_m_s2[~covered[:n]]).all()
    assert one.whole_upto() == (np.flatnonzero(~covered)[0] if not covered[:n].all() else n)


@pytest.mark.parametrize(
    ("said", "what"),
    [
        ([], "is no map"),
        ({"n": -1, "t": 0.0}, "no number n"),
        ({"n": True, "t": 0.0}, "no number n"),
        ({"n": 1, "t": float("nan")}, "no time t"),
        ({"n": 1, "t": 0.0, "u": {"nose": {"i": 0}}}, "names nose"),
        ({"n": 1, "t": 0.0, "u": {"bag": {"i": 0}}}, "no samples of bag"),
        ({"n": 1, "t": 0.0, "u": {"bag": {"i": 0, "a": cbor2.CBORTag(85, b"123")}}}, "in another form"),
        ({"n": 1, "t": 0.0, "u": {"bag": {"i": 0, "a": cbor2.CBORTag(85, bytes(12))}}}, "only one of a and g"),
        ({"n": 1, "t": 0.0, "b": {"bag": "full"}}, "no numbers"),
        ({"n": 1, "t": 0.0, "k": [1]}, "clock k"),
    ],
)
def test_what_is_no_packet_is_refused_in_one_line(said: object, what: str) -> None:
    with pytest.raises(BadPacket, match=what):
        decode(cbor2.dumps(said))
    with pytest.raises(BadPacket, match="CBOR"):
        decode(b"\xff\x00no")


@given(st.binary(max_size=200))
def test_no_bytes_do_anything_but_decode_or_be_refused(content: bytes) -> None:
    with contextlib.suppress(BadPacket):
        assert decode(content).number >= 0


def tagged(tag: int, value: object) -> bytes:
    return cbor2.dumps({"n": 5, "t": 0.0, "u": {"bag": {"i": 0, "a": cbor2.CBORTag(tag, value)}}})


@pytest.mark.parametrize(
    "content",
    [
        tagged(35, "(a?){30}" * 10),
        tagged(2, b"\xff" * 1000),
        cbor2.dumps({"n": 5, "t": 2**80}),
        cbor2.dumps({"n": 5, "t": -(2**64)}),
        cbor2.dumps({"n": 5, "t": 1e300}),
        cbor2.dumps({"n": 5, "t": 0.0, "x": {"bag": 2**64 - 1}, "b": [[]] * MOST_ITEMS * 4}),
        cbor2.dumps({"n": 5, "t": 0.0, "u": b"x" * LARGEST_BYTES}),
    ],
)
def test_what_asks_for_work_is_refused_by_its_number_before_any_is_done(content: bytes) -> None:
    with pytest.raises(BadPacket, match="packet 5 "):
        decode(content)
    assert number_in(content) == 5


def test_no_tag_has_a_meaning_but_that_of_samples() -> None:
    """Whatever the decoder learns to make of a tag some day: it is either refused or left as it stands."""
    for tag in (*range(300), *range(1000, 1010), 43000, 55799, 2**20):
        with contextlib.suppress(BadPacket):
            value = read(cbor2.dumps({"a": cbor2.CBORTag(tag, "x")}))["a"]
            assert (type(value), value.tag) == (cbor2.CBORTag, tag)
