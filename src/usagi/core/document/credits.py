"""Who plays what, as it is claimed: claims that contradict each other stand side by side until one is picked."""

from __future__ import annotations

from collections.abc import Iterable

from usagi.core.document.solo import Credit


def counts_for(player: str, credits: Iterable[Credit]) -> bool:
    """Whether what is played counts for a player: where several are claimed, they are picked.

    >>> counts_for("Ada Moor", [Credit(who="Ada Moor"), Credit(who="Ines Quarrie", picked=True)])
    False
    """
    by_part: dict[str, list[Credit]] = {}
    for credit in credits:
        by_part.setdefault(credit.part.strip().casefold(), []).append(credit)
    for claims in by_part.values():
        names = {claim.who.strip() for claim in claims}
        picked = {claim.who.strip() for claim in claims if claim.picked}
        if len(names) > 1 and player.strip() in names and player.strip() not in picked:
            return False
    return True


def disputes(credits: Iterable[Credit]) -> tuple[str, ...]:
    """A sentence for every part that several are said to play, none of them picked.

    >>> disputes([Credit(who="Ada Moor", part="lead"), Credit(who="Ines Quarrie", part="Lead")])
    ('Disputed who plays lead: Ada Moor or Ines Quarrie.',)
    """
    by_part: dict[str, list[Credit]] = {}
    for credit in credits:
        by_part.setdefault(credit.part.strip().casefold(), []).append(credit)
    found = []
    for claims in by_part.values():
        names = list(dict.fromkeys(claim.who.strip() for claim in claims))
        if len(names) > 1 and not any(claim.picked for claim in claims):
            part = claims[0].part.strip() or "this"
            found.append(f"Disputed who plays {part}: {', '.join(names[:-1])} or {names[-1]}.")
    return tuple(found)
