-- Listening. What was heard can be made again, so no backup holds it; hints, what is no note, and spans that are kept for
-- scoring are the teacher's own.
ALTER TABLE estimate ALTER COLUMN solo_id DROP NOT NULL;
ALTER TABLE estimate ADD COLUMN recording_id uuid;
ALTER TABLE estimate ADD CONSTRAINT estimate_of_one CHECK ((solo_id IS NULL) <> (recording_id IS NULL));
ALTER TABLE estimate ADD FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id) ON DELETE CASCADE;
ALTER TABLE estimate DROP CONSTRAINT estimate_kind_check;
ALTER TABLE estimate ADD CONSTRAINT estimate_kind_check CHECK (kind IN ('beats', 'swing', 'chords', 'offset', 'notes'));

CREATE TABLE heard (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    recording_id uuid NOT NULL,
    key text NOT NULL, -- of the span, the hints, the offset and the listener's number
    found jsonb NOT NULL,
    bytes integer NOT NULL,
    used_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, recording_id, key),
    FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id) ON DELETE CASCADE
);

CREATE TABLE listened_span (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    solo_id uuid NOT NULL,
    from_tick bigint NOT NULL,
    to_tick bigint NOT NULL,
    hints jsonb NOT NULL,
    asked_at timestamptz NOT NULL DEFAULT now(),
    corrected boolean NOT NULL DEFAULT false, -- kept for scoring: the teacher agreed, and took notes in it
    PRIMARY KEY (studio_id, solo_id, from_tick, to_tick),
    FOREIGN KEY (studio_id, solo_id) REFERENCES solo (studio_id, id) ON DELETE CASCADE
);

CREATE TABLE no_note (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    recording_id uuid NOT NULL,
    id uuid NOT NULL,
    second double precision NOT NULL,
    midi integer, -- none: of a dead note
    said_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, id),
    FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id) ON DELETE CASCADE
);

ALTER TABLE studio ADD COLUMN keeps_corrections boolean; -- null: not asked yet
