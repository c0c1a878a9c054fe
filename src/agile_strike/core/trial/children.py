"""What a child is not tested for: how hard and how fast. Technique and slow work come first."""

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


def no_trial(name: str, age: int | None, consent: str, measure: str) -> str | None:
    """Why a student may not be in a trial decided by this measure; None where nothing stands against it."""
    if consent == "missing":
        return f"{name} is under {MAJORITY} and the guardian's consent is missing. Note it on the student's page first."
    base = measure.removesuffix("_per_body_mass")
    if age is not None and age < MAXIMAL_FROM_AGE and base in MAXIMAL:
        return (
            f"{name} is {age}: no testing for power or speed before {MAXIMAL_FROM_AGE}. Choose a measure of technique."
        )
    return None
