-- What is heard in a recording by a worker: how far it is, and what it found. It can be made again, so no backup holds it.
CREATE TABLE estimate (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    id uuid NOT NULL,
    solo_id uuid NOT NULL,
    kind text NOT NULL CHECK (kind IN ('beats', 'swing', 'chords', 'offset')),
    asked jsonb NOT NULL DEFAULT '{}',
    state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
    share double precision NOT NULL DEFAULT 0,
    found jsonb,
    trouble text NOT NULL DEFAULT '',
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, id),
    FOREIGN KEY (studio_id, solo_id) REFERENCES solo (studio_id, id) ON DELETE CASCADE
);

-- Where a tune was recorded, and what solo goes on on another recording.
ALTER TABLE recording ADD COLUMN source text NOT NULL DEFAULT '';
ALTER TABLE recording ADD COLUMN year integer CHECK (year BETWEEN 1860 AND 2200);
ALTER TABLE recording ADD COLUMN take text NOT NULL DEFAULT '';
ALTER TABLE recording ADD COLUMN link text NOT NULL DEFAULT '';
ALTER TABLE recording ADD COLUMN notes text NOT NULL DEFAULT '';
