"""What a coach does with kit."""

import datetime as dt
from dataclasses import dataclass, replace

from django.db import transaction
from django.db.models import Q

from agile_strike.core import target as core
from agile_strike.core.errors import BadInput, ChangedMeanwhile, NotYours
from agile_strike.gym.models import Gym
from agile_strike.kit.models import FIELDS, Bag, BagVersion, Unit

#: what makes a bag another one; all else is what is known of it
HANGS_BY = ("mount", "mass_kg", "length_m", "diameter_m", "sensor_below_top_m", "pivot_to_top_m", "chain_m", "filling")
TYPICAL_FORCE_N = 2500.0  # a good cross, for telling what a doubt costs
SHOWN_SDS = 2.0  # a doubt is shown so that the truth lies within it 19 times in 20
TYPICAL_LEVER_SHARE = 0.25  # of the bag's length, from its centre of mass to the hit


@dataclass(frozen=True, slots=True)
class Cost:
    """What one uncertain value of a bag costs on a typical strike."""

    what: str
    doubt: str
    newtons: float
    remedy: str


def version_of(gym: Gym, body: core.Bag) -> BagVersion | None:
    """The version of the gym's bags that equals `body`, if there is one."""
    values = {name: getattr(body, name) for name in FIELDS}
    bands = list(body.level_bands_m) if body.level_bands_m else None
    same = BagVersion.objects.for_gym(gym).filter(**{k: v for k, v in values.items() if v is not None})
    same = same.filter(Q(**{f"{k}__isnull": True for k, v in values.items() if v is None}))
    found = same.filter(level_bands_m=bands) if bands else same.filter(level_bands_m__isnull=True)
    return found.select_related("bag").first()


def as_known_now(gym: Gym, body: core.Bag) -> core.Bag:
    """What the gym knows by now of a bag that a file describes as the gym once knew it."""
    version = version_of(gym, body)
    return body if version is None else learnt(version).to_core()


def bag_for(gym: Gym, body: core.Bag, at: dt.datetime) -> BagVersion:
    """The version of the gym's bags that equals `body`; a new bag where there is none."""
    if version := version_of(gym, body):
        return version
    bag = Bag.objects.create(gym=gym, name=_free_name(gym, f"{body.mass_kg:.0f} kg {body.mount} bag"))
    return _new_version(bag, body, at, BagVersion.Why.CHANGED)


def learnt(then: BagVersion) -> BagVersion:
    """What is known by now of a bag as it hung then: the newest version before it was changed."""
    known = then
    for version in list(then.bag.versions.all())[::-1]:  # the oldest first
        if (version.since, version.pk) <= (then.since, then.pk):
            continue
        if version.why == BagVersion.Why.CHANGED:
            break
        known = version
    return known


def _free_name(gym: Gym, base: str) -> str:
    taken = set(Bag.objects.with_removed_of(gym).filter(name__startswith=base).values_list("name", flat=True))
    return next(n for n in (base, *(f"{base} ({i})" for i in range(2, 10_000))) if n not in taken)


def _new_version(bag: Bag, body: core.Bag, since: dt.datetime, why: str) -> BagVersion:
    bands = list(body.level_bands_m) if body.level_bands_m else None
    values = {f: getattr(body, f) for f in FIELDS}
    return BagVersion.objects.create(bag=bag, since=since, why=why, level_bands_m=bands, **values)


@transaction.atomic
def learn(bag: Bag, body: core.Bag, since: dt.datetime) -> BagVersion:
    """More is known of a bag that hangs as before."""
    row = Bag.objects.select_for_update().get(pk=bag.pk)
    row.version += 1
    row.save(update_fields=["version"])
    return _new_version(row, body, since, BagVersion.Why.LEARNT)


@transaction.atomic
def save_version(
    gym: Gym,
    bag_id: int | None,
    name: str,
    body: core.Bag,
    since: dt.datetime,
    version: int = 0,
    always_so: bool = False,
) -> BagVersion:
    """A new bag, or a new version of one. Old versions stay: recordings refer to them.

    `always_so` says that a figure was wrong: recordings made before take it up when they are analysed again.
    """
    if not name.strip():
        raise BadInput("A bag needs a name.")
    named = Bag.objects.with_removed_of(gym).filter(name=name.strip()).exclude(pk=bag_id or 0)
    if named.exists():
        there = "was removed: take it back, or" if named[0].removed_at else "is there already:"
        raise BadInput(f"A bag called {name.strip()} {there} choose another name.")
    if bag_id is None:
        bag = Bag.objects.create(gym=gym, name=name.strip())
        return _new_version(bag, body, since, BagVersion.Why.CHANGED)
    found = Bag.objects.for_gym(gym).select_for_update().filter(id=bag_id).first()
    if found is None:
        raise NotYours("bag")
    before = found.versions.first()
    if found.version != version:
        hangs = before.to_core() if before else None
        now = f"“{found.name}”, {hangs.mass_kg:g} kg, {hangs.mount}, gain {hangs.impulse_gain:g}" if hangs else "empty"
        raise ChangedMeanwhile("this bag", f"now {now}")
    found.name, found.version = name.strip(), found.version + 1
    found.save(update_fields=["name", "version"])
    return _new_version(found, body, since, _why(before, body, always_so))


def _why(before: BagVersion | None, body: core.Bag, always_so: bool) -> str:
    if always_so:
        return BagVersion.Why.CORRECTED
    hung = () if before is None else tuple(getattr(before, f) for f in HANGS_BY)
    same = hung == tuple(getattr(body, f) for f in HANGS_BY)
    return BagVersion.Why.LEARNT if same else BagVersion.Why.CHANGED


def costs(bag: core.Bag) -> list[Cost]:
    """What each uncertain value of the bag costs, in newtons on a 2,500 N strike: one standard uncertainty, to be shown
    as two like every doubt; the words beside it show two."""
    rows = []
    mass_share = bag.mass_doubt_kg / bag.mass_kg
    weigh = "Weigh the bag on a scale good to 0.5 %."
    if bag.loose_share:
        weigh = "Water moves by itself: swing a ball of known mass at it (calibrations, below)."
    inertia_share = bag.inertia_doubt_share
    if bag.mount == "swivel":
        rows.append(
            Cost(
                "Mass",
                f"{bag.mass_kg:g} ±{SHOWN_SDS * bag.mass_doubt_kg:.2g} kg",
                TYPICAL_FORCE_N * mass_share,
                weigh,
            )
        )
        lever = TYPICAL_LEVER_SHARE * bag.length_m
        turn_per_n_s = lever / bag.inertia_across_kg_m2
        place = core.SENSOR_PLACE_SD_M * turn_per_n_s * bag.mass_kg
        rows.append(
            Cost(
                "Unit's place",
                f"±{1e3 * SHOWN_SDS * core.SENSOR_PLACE_SD_M:.0f} mm",
                TYPICAL_FORCE_N * place,
                "Measure from the bag's top edge to the middle of the unit.",
            )
        )
    if bag.mount in ("fixed", "standing"):
        i_p = bag.inertia_across_kg_m2 + bag.mass_kg * bag.pivot_above_com_m**2
        rows.append(
            Cost(
                "Mass",
                f"{bag.mass_kg:g} ±{SHOWN_SDS * bag.mass_doubt_kg:.2g} kg",
                TYPICAL_FORCE_N * mass_share,
                weigh,
            )
        )
        rows.append(
            Cost(
                "Inertia",
                f"±{100 * SHOWN_SDS * inertia_share:.0f} %",
                TYPICAL_FORCE_N * inertia_share * bag.inertia_across_kg_m2 / i_p,
                "Hang the bag and time its free swing.",
            )
        )
        middle, sd = bag.level_middle_m("body")
        lever = abs(bag.com_below_top_m - middle - bag.pivot_above_com_m)
        rows.append(
            Cost(
                "Where it was hit",
                f"±{100 * SHOWN_SDS * sd:.0f} cm within the planned level",
                TYPICAL_FORCE_N * sd / max(lever, 0.05),
                "Hang the bag on a swivel: it then shows its hits.",
            )
        )
    return rows


def height_doubt_mm(bag: core.Bag) -> float | None:
    """What the inertia's doubt costs in hit height, a quarter of the bag from its middle; millimetres."""
    if bag.mount != "swivel":
        return None
    return 1e3 * TYPICAL_LEVER_SHARE * bag.length_m * bag.inertia_doubt_share


def with_swing_time(bag: core.Bag, period_s: float, period_sd_s: float) -> core.Bag:
    """Inertia about the centre of mass from the free swing about a pivot at the bag's top edge plus `pivot_to_top_m`.

    I_p = M g d T^2 / 4 pi^2 (small swings), I_cm = I_p - M d^2. Raises ImpossibleBag if the result is none.
    """
    d = bag.com_below_top_m + bag.pivot_to_top_m
    about_pivot = bag.mass_kg * core.GRAVITY_M_S2 * d * period_s**2 / (4 * 3.141592653589793**2)
    inertia = about_pivot - bag.mass_kg * d**2
    sd = 2 * about_pivot * period_sd_s / period_s
    return replace(bag, inertia_cm_kg_m2=inertia, inertia_sd_kg_m2=sd)


@transaction.atomic
def name_unit(gym: Gym, unit_id: int, name: str, serial: str, version: int) -> Unit:
    """What the gym calls a unit, and its serial where none was known. Two rows of one serial become one, with the
    recordings and the calibrations of both."""
    row = Unit.objects.for_gym(gym).select_for_update().filter(pk=unit_id).first()
    if row is None:
        raise NotYours("unit")
    if row.version != version:
        raise ChangedMeanwhile("this unit", f"it is now called “{row}”, serial {row.serial or 'not known'}")
    serial = serial.strip()
    same = Unit.objects.for_gym(gym).select_for_update().filter(serial=serial).exclude(pk=row.pk).first()
    if row.serial and not serial:
        raise BadInput("A unit that is known by its serial keeps one: leave it as it is.")
    if serial and same is not None:
        if row.serial:
            raise BadInput(f"Another unit has the serial {serial}: read it from the case again.")
        row.wears.update(unit=same)
        row.calibrations.update(unit=same)
        row.delete()
        row = same
    row.name, row.version = name.strip(), row.version + 1
    if serial:
        row.serial, row.place = serial, ""
    row.save(update_fields=["name", "serial", "place", "version"])
    return row
