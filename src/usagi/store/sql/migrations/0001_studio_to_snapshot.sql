-- Studios and all that lies in one. Ids of people, tunes and documents are UUIDs; ids inside documents are text.

CREATE TABLE studio (
    id uuid PRIMARY KEY,
    name text NOT NULL,
    demo boolean NOT NULL DEFAULT false,
    made_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE person (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    id uuid NOT NULL,
    name text NOT NULL,
    PRIMARY KEY (studio_id, id)
);

CREATE TABLE player (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    id uuid NOT NULL,
    name text NOT NULL,
    PRIMARY KEY (studio_id, id),
    UNIQUE (studio_id, name)
);

CREATE TABLE tune (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    id uuid NOT NULL,
    title text NOT NULL,
    PRIMARY KEY (studio_id, id),
    UNIQUE (studio_id, title)
);

-- A recording may be known by its hash alone, when a document came without its sound: frames is null then.
CREATE TABLE recording (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    id uuid NOT NULL,
    tune_id uuid NOT NULL,
    sha256 text NOT NULL CHECK (sha256 ~ '^[0-9a-f]{64}$'),
    title text NOT NULL DEFAULT '',
    file_name text NOT NULL DEFAULT '',
    bytes bigint,
    frames bigint CHECK (frames > 0),
    channels integer CHECK (channels IN (1, 2)),
    seconds double precision NOT NULL,
    decoded_by text,
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, id),
    UNIQUE (studio_id, sha256),
    FOREIGN KEY (studio_id, tune_id) REFERENCES tune (studio_id, id) ON DELETE CASCADE
);

-- Bytes as uploaded, and the canonical 48 kHz 16-bit PCM, in rows of 256 KiB.
CREATE TABLE sound_part (
    studio_id uuid NOT NULL,
    recording_id uuid NOT NULL,
    kind text NOT NULL CHECK (kind IN ('upload', 'pcm')),
    part integer NOT NULL,
    data bytea NOT NULL,
    PRIMARY KEY (studio_id, recording_id, kind, part),
    FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id) ON DELETE CASCADE
);
ALTER TABLE sound_part ALTER COLUMN data SET STORAGE EXTERNAL; -- audio does not compress

CREATE TABLE document (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    id uuid NOT NULL,
    kind text NOT NULL CHECK (kind IN ('solo', 'ground')),
    version integer NOT NULL DEFAULT 0,
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, id),
    UNIQUE (studio_id, id, kind)
);

CREATE TABLE ground (
    studio_id uuid NOT NULL,
    id uuid NOT NULL,
    kind text NOT NULL DEFAULT 'ground' CHECK (kind = 'ground'),
    tune_id uuid NOT NULL,
    recording_id uuid,
    PRIMARY KEY (studio_id, id),
    UNIQUE (studio_id, recording_id),
    FOREIGN KEY (studio_id, id, kind) REFERENCES document (studio_id, id, kind) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, tune_id) REFERENCES tune (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id) ON DELETE CASCADE
);

-- title and summary are taken from the document at every edit, so that the shelf reads rows and no documents.
CREATE TABLE solo (
    studio_id uuid NOT NULL,
    id uuid NOT NULL,
    kind text NOT NULL DEFAULT 'solo' CHECK (kind = 'solo'),
    ground_id uuid NOT NULL,
    player_id uuid,
    title text NOT NULL DEFAULT '',
    summary jsonb NOT NULL DEFAULT '{}',
    touched_at timestamptz NOT NULL DEFAULT now(),
    removed_at timestamptz,
    PRIMARY KEY (studio_id, id),
    FOREIGN KEY (studio_id, id, kind) REFERENCES document (studio_id, id, kind) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, ground_id) REFERENCES ground (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, player_id) REFERENCES player (studio_id, id)
);
CREATE INDEX solo_of_ground ON solo (studio_id, ground_id);

-- The log is the history: never rewritten. version is the document's version that the edit made.
CREATE TABLE edit (
    studio_id uuid NOT NULL,
    document_id uuid NOT NULL,
    id text NOT NULL,
    seq bigint GENERATED ALWAYS AS IDENTITY,
    version integer NOT NULL,
    act text NOT NULL,
    made_in uuid NOT NULL,
    undoes text,
    person_id uuid NOT NULL,
    at timestamptz NOT NULL,
    schema integer NOT NULL,
    label text NOT NULL,
    changes jsonb NOT NULL,
    PRIMARY KEY (studio_id, document_id, id),
    UNIQUE (studio_id, document_id, version),
    FOREIGN KEY (studio_id, document_id) REFERENCES document (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, person_id) REFERENCES person (studio_id, id) ON DELETE CASCADE
);
CREATE INDEX edit_of_person ON edit (studio_id, made_in, person_id, seq);

CREATE TABLE snapshot (
    studio_id uuid NOT NULL,
    document_id uuid NOT NULL,
    version integer NOT NULL,
    schema integer NOT NULL,
    content jsonb NOT NULL,
    PRIMARY KEY (studio_id, document_id, version),
    FOREIGN KEY (studio_id, document_id) REFERENCES document (studio_id, id) ON DELETE CASCADE
);

-- A chart text with faults: its writer's own, until it reads.
CREATE TABLE chart_draft (
    studio_id uuid NOT NULL,
    ground_id uuid NOT NULL,
    person_id uuid NOT NULL,
    text text NOT NULL,
    at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, ground_id, person_id),
    FOREIGN KEY (studio_id, ground_id) REFERENCES ground (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, person_id) REFERENCES person (studio_id, id) ON DELETE CASCADE
);
