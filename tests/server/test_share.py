"""Two live workers share the stations; who is killed has given up its own at that moment."""

from collections.abc import Iterator

import psycopg
import pytest
from django.db import connection
from live_makers import Evening
from live_makers import evening as evening  # the fixture

from agile_strike.live.watch.share import Share
from agile_strike.live.watch.worker import Worker
from agile_strike.review.models import Strike

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def shares() -> Iterator[list[Share]]:
    """Three workers that are alive."""
    params = {k: v for k, v in connection.get_connection_params().items() if k not in ("cursor_factory", "context")}
    three = [Share(psycopg.connect(**params, autocommit=True)) for _ in range(3)]
    yield three
    for one in three:
        one.db.close()


def test_each_station_is_one_workers_and_those_of_one_that_ends_are_shared_by_the_others(shares: list[Share]) -> None:
    stations = set(range(1, 12))
    for _ in range(2):  # the first took all but what others were to have
        for one in shares:
            one.renew(stations)
    assert sorted(len(s.own) for s in shares) == [3, 4, 4]
    assert set.union(*(s.own for s in shares)) == stations
    ended, *left = shares
    ended.db.close()
    for _ in range(2):
        for one in left:
            one.renew(stations)
    assert sorted(len(s.own) for s in left) == [5, 6]
    assert set.union(*(s.own for s in left)) == stations
    for one in left:
        one.renew({3, 4})
    for one in left:
        one.renew({3, 4})
    assert [len(s.own) for s in left] == [1, 1]


def test_a_killed_workers_evening_goes_on_with_another_and_each_strike_is_told_once(evening: Evening) -> None:
    take = evening.step_up()
    evening.land(evening.gather(6.0))
    evening.begin(take)
    workers = [Worker(), Worker()]
    found = []

    def work(contents: list[bytes]) -> None:
        for content in contents:
            evening.land([content])
            for one in workers:
                one.wait()
                one.step()
        found.append([len(one.lines) for one in workers])

    work(evening.gather(16.0))
    had = found[-1]
    assert sorted(had) == [0, 1]
    own = Strike.objects.filter(recording=take.recording)
    first = {(s.pk, s.version) for s in own.all()}
    assert len(first) >= 2
    killed = workers.pop(had.index(1))
    killed._listens.close()  # type: ignore[union-attr]  # as the server sees a process that is no more
    work(evening.gather(26.0))
    assert found[-1] == [1]
    after = {(s.pk, s.version) for s in own.all()}
    assert len(after) == 5
    assert after > first
    workers[0]._listens.close()  # type: ignore[union-attr]
