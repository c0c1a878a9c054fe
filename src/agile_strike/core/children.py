"""What holds for a child: consent before anything is recorded or handed out, half the volume, no maximal testing."""

MAXIMAL_FROM_AGE = 16
MAJORITY = 18
#: measures that are only high when a student strikes with full effort
MAXIMAL = frozenset(
    {
        "peak_force_n",
        "impulse_n_s",
        "bag_energy_j",
        "peak_speed_m_s",
        "contact_speed_m_s",
        "effective_mass_kg",
        "effective_mass_pct",
    }
)
MOST_STRIKES = 48  # of an evening's trial, under sixteen: half of what an adult's plan may hold
LEAST_REST_S = 60.0  # between blocks
CONSENT = frozenset({"kept"})


def is_child(age: int | None) -> bool:
    """A student whose date of birth nobody noted counts as a child until it is."""
    return age is None or age < MAJORITY


def no_consent(name: str, age: int | None, consent: str) -> str | None:
    """Why nothing may be recorded of a student or handed out; None where nothing stands against it."""
    if not is_child(age) or consent in CONSENT:
        return None
    if age is None:
        return (
            f"{name}'s date of birth is not noted, so {name} counts as a child. "
            "Note it, or a guardian's consent, on the student's page first."
        )
    was = "was withdrawn" if consent == "withdrawn" else "is missing"
    return f"{name} is under {MAJORITY} and the guardian's consent {was}. Note it on the student's page first."


def lacks_consent(age: int | None, consent: str) -> str | None:
    """The same in short, where the name stands before it."""
    if not is_child(age) or consent in CONSENT:
        return None
    if age is None:
        return "No date of birth is noted, so nothing may be recorded without a guardian's consent."
    return (
        f"Under {MAJORITY}, and the guardian's consent {'was withdrawn' if consent == 'withdrawn' else 'is missing'}."
    )


def no_trial(
    name: str, age: int | None, consent: str, measures: tuple[str, ...], strikes: int = 0, rest_s: float = LEAST_REST_S
) -> str | None:
    """Why a student may not be in a trial that looks at these measures; None where nothing stands against it.

    strikes: an evening, over all blocks; rest_s: between blocks.
    """
    if why := no_consent(name, age, consent):
        return why
    if age is not None and age >= MAXIMAL_FROM_AGE:
        return None
    who = f"{name} is {age}" if age is not None else f"{name} counts as a child"
    if any(m.removesuffix("_per_body_mass") in MAXIMAL for m in measures):
        return (
            f"{who}: no testing for power or speed before {MAXIMAL_FROM_AGE}. "
            "Choose measures of technique, for what decides and for what is watched."
        )
    if strikes > MOST_STRIKES:
        return f"{who}: {strikes} strikes an evening are too many. Plan at most {MOST_STRIKES}, in fewer blocks."
    if rest_s < LEAST_REST_S:
        return f"{who}: rest at least {LEAST_REST_S:.0f} seconds between blocks."
    return None
