"""Students: stance, body mass over time, consent."""
