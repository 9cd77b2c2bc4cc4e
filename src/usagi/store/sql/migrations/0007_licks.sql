-- Licks that are kept, and what is derived of every solo so that its phrases are found.

CREATE EXTENSION IF NOT EXISTS pg_trgm;

-- A span of a solo by reference; frozen, as a document of its own, once its notes are gone.
CREATE TABLE lick (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    id uuid NOT NULL,
    version integer NOT NULL DEFAULT 1,
    name text NOT NULL DEFAULT '',
    tags text[] NOT NULL DEFAULT '{}',
    words text NOT NULL DEFAULT '',
    solo_id uuid,
    first_note text NOT NULL,
    last_note text NOT NULL,
    recording_id uuid,
    frozen jsonb,
    why_frozen text NOT NULL DEFAULT '',
    made_at timestamptz NOT NULL DEFAULT now(),
    touched_at timestamptz NOT NULL DEFAULT now(),
    removed_at timestamptz,
    PRIMARY KEY (studio_id, id),
    FOREIGN KEY (studio_id, solo_id) REFERENCES solo (studio_id, id) ON DELETE SET NULL (solo_id),
    FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id) ON DELETE SET NULL (recording_id),
    CHECK (solo_id IS NOT NULL OR frozen IS NOT NULL)
);
CREATE INDEX lick_of_solo ON lick (studio_id, solo_id);

-- What a lick was before each change, who made it and when.
CREATE TABLE lick_change (
    studio_id uuid NOT NULL,
    lick_id uuid NOT NULL,
    version integer NOT NULL,
    person_id uuid NOT NULL,
    at timestamptz NOT NULL DEFAULT now(),
    before jsonb NOT NULL,
    PRIMARY KEY (studio_id, lick_id, version),
    FOREIGN KEY (studio_id, lick_id) REFERENCES lick (studio_id, id) ON DELETE CASCADE
);

-- Derived: every phrase, every stretch that nobody cut and every lick, as core/licks/entries.py reads it.
CREATE TABLE found_span (
    studio_id uuid NOT NULL,
    id bigint GENERATED ALWAYS AS IDENTITY,
    solo_id uuid,
    lick_id uuid,
    phrase text,
    name text NOT NULL,
    first_note text NOT NULL,
    last_note text NOT NULL,
    tick bigint NOT NULL,
    bar integer NOT NULL,
    line text NOT NULL,
    stacks text,
    steps text NOT NULL,
    notes smallint NOT NULL,
    pulses real NOT NULL,
    tempo real NOT NULL,
    key smallint,
    starts_at smallint NOT NULL,
    ends_at smallint NOT NULL,
    start_slot smallint,
    end_slot smallint,
    low_fret smallint,
    high_fret smallint,
    thin smallint NOT NULL,
    thick smallint NOT NULL,
    feel text NOT NULL,
    motion text NOT NULL,
    techniques text[] NOT NULL,
    PRIMARY KEY (studio_id, id),
    FOREIGN KEY (studio_id, solo_id) REFERENCES solo (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, lick_id) REFERENCES lick (studio_id, id) ON DELETE CASCADE
);
CREATE INDEX found_span_of_solo ON found_span (studio_id, solo_id);
CREATE INDEX found_span_of_lick ON found_span (studio_id, lick_id);
CREATE INDEX found_span_by_line ON found_span USING gin (line gin_trgm_ops);
CREATE INDEX found_span_with_stacks ON found_span (studio_id) WHERE stacks IS NOT NULL;

-- What is read of few of them at a time lies apart, so that searching reads little: the tokens for nearness, the drawing.
CREATE TABLE found_tokens (
    studio_id uuid NOT NULL,
    id bigint NOT NULL,
    marks bytea NOT NULL,
    tokens bytea NOT NULL,
    PRIMARY KEY (studio_id, id),
    FOREIGN KEY (studio_id, id) REFERENCES found_span (studio_id, id) ON DELETE CASCADE
);
CREATE TABLE found_drawing (
    studio_id uuid NOT NULL,
    id bigint NOT NULL,
    drawn jsonb NOT NULL,
    PRIMARY KEY (studio_id, id),
    FOREIGN KEY (studio_id, id) REFERENCES found_span (studio_id, id) ON DELETE CASCADE
);

-- Derived: of which versions a solo was read, and what its player does in it: every note of every answer (facts), and how
-- often and how long (sums, with the number of notes; null where it counts for nobody), which is what pages read.
CREATE TABLE solo_read (
    studio_id uuid NOT NULL,
    solo_id uuid NOT NULL,
    solo_version integer NOT NULL,
    ground_version integer NOT NULL,
    number integer NOT NULL,
    notes integer,
    sums jsonb,
    facts jsonb NOT NULL,
    PRIMARY KEY (studio_id, solo_id),
    FOREIGN KEY (studio_id, solo_id) REFERENCES solo (studio_id, id) ON DELETE CASCADE
);

-- Derived: the cells that a player comes back to, and the solos as they were when they were found.
CREATE TABLE player_read (
    studio_id uuid NOT NULL,
    player_id uuid NOT NULL,
    made_of text NOT NULL,
    cells jsonb NOT NULL,
    PRIMARY KEY (studio_id, player_id),
    FOREIGN KEY (studio_id, player_id) REFERENCES player (studio_id, id) ON DELETE CASCADE
);

ALTER TABLE recording ADD COLUMN setting text NOT NULL DEFAULT '' CHECK (setting IN ('', 'studio', 'live'));
