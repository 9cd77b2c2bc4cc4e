"""How far the check of each solo is: derived, and shown with the versions that it belongs to."""

from __future__ import annotations

from uuid import UUID

from usagi.store.database import Db

KEEP = """
INSERT INTO solo_check (studio_id, solo_id, solo_version, ground_version, open, done)
VALUES (%(studio_id)s, %(solo_id)s, %(solo_version)s, %(ground_version)s, %(open)s, %(done)s)
ON CONFLICT (studio_id, solo_id) DO UPDATE SET
    solo_version = excluded.solo_version, ground_version = excluded.ground_version, open = excluded.open,
    done = excluded.done
WHERE (solo_check.solo_version, solo_check.ground_version, solo_check.open, solo_check.done)
    IS DISTINCT FROM (excluded.solo_version, excluded.ground_version, excluded.open, excluded.done)
"""


def keep_check(
    db: Db, studio: UUID, solo: UUID, solo_version: int, ground_version: int, open_findings: int, done: float
) -> None:
    """Remember how many findings are open, and the share of bars that is done, at some versions."""
    values = {"solo_version": solo_version, "ground_version": ground_version, "open": open_findings, "done": done}
    db.execute(KEEP, {"studio_id": studio, "solo_id": solo} | values)
