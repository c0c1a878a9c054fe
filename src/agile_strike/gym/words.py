"""Searching what people wrote, by PostgreSQL's own full text: any language, every word by its beginning."""

import re

from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.search import SearchQuery, SearchVector

CONFIG = "simple"  # no language's stems and stop words: gyms write in their own
LONGEST, MOST = 40, 12


def words_of(*fields: str) -> SearchVector:
    """The words of these columns, as an index holds them."""
    return SearchVector(*fields, config=CONFIG)


def words_index(*fields: str, name: str) -> GinIndex:
    return GinIndex(words_of(*fields), name=name)


def asked(text: str) -> SearchQuery | None:
    """All of these words, each by its beginning: `wri left` finds "left wrist". None where no word is in it."""
    words = re.findall(r"\w+", text)[:MOST]
    if not words:
        return None
    return SearchQuery(" & ".join(f"{w[:LONGEST]}:*" for w in words), config=CONFIG, search_type="raw")
