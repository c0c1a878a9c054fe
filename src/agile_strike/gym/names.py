"""Names of files that any disk takes."""

from pathlib import Path

LONGEST_NAME, LONGEST_SUFFIX = 200, 12


def safe_name(name: str) -> str:
    """A name that any disk takes: its last part, without what means something to a file system, its suffix short."""
    plain = Path("".join(c if c.isprintable() and c not in '\\/:*?"<>|' else "_" for c in name)).name or "file"
    stem, suffix = Path(plain).stem, Path(plain).suffix
    short = stem.encode()[: LONGEST_NAME - LONGEST_SUFFIX].decode(errors="ignore") or "file"
    return f"{short}{suffix[:LONGEST_SUFFIX]}"
