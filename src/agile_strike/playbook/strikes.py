"""The strikes that a gym knows: the shipped ones, by every name that coaches have for them, and its own."""

from dataclasses import replace

from django.db import transaction

from agile_strike.core.errors import BadInput
from agile_strike.core.vocabulary import STRIKES, StrikeWord, code_for, family_of
from agile_strike.gym.models import Gym
from agile_strike.playbook.models import GymStrike
from agile_strike.playbook.services import call_words

MOST_OWN = 200


def known(gym: Gym) -> list[StrikeWord]:
    """Shipped first, then the gym's own; the gym's calls are names of theirs too."""
    called: dict[str, list[str]] = {}
    for word, code in call_words(gym).items():
        called.setdefault(code, []).append(word)
    own = [StrikeWord(r.code, r.name, family=family_of(r.code), path="") for r in GymStrike.objects.for_gym(gym)]
    return [replace(w, also=(*w.also, *called.get(w.code, ()))) for w in (*STRIKES.values(), *own)]


def code_of(gym: Gym, said: str) -> str:
    """The code of a strike by its code, its name or another name of it that no second strike has. Raises BadInput where
    the gym knows no such strike: a word mistyped would make one that no check and no trial finds."""
    if said in STRIKES:
        return said
    wanted = said.strip().lower()
    words = known(gym)
    for fits in (
        [w for w in words if wanted in (w.code, w.name.lower())],
        [w for w in words if wanted in (a.lower() for a in w.also)],
    ):
        if len(fits) == 1:
            return fits[0].code
    raise BadInput(f"This gym knows no strike called “{said[:40]}”. Choose one of the list, or add it to your gym.")


@transaction.atomic
def add(gym: Gym, name: str) -> StrikeWord:
    """A strike more for this gym. Adding it twice is adding it once."""
    name = " ".join(name.split())
    code = code_for(name)
    if not code:
        raise BadInput("A strike needs a name of letters or figures.")
    Gym.objects.select_for_update().get(pk=gym.pk)
    for word in known(gym):
        if code == word.code or name.lower() in (word.name.lower(), *(a.lower() for a in word.also)):
            return word
    if GymStrike.objects.for_gym(gym).count() >= MOST_OWN:
        raise BadInput(f"A gym holds at most {MOST_OWN} strikes of its own.")
    row = GymStrike.objects.create(gym=gym, code=code, name=name)
    return StrikeWord(row.code, row.name, family=family_of(row.code), path="")
