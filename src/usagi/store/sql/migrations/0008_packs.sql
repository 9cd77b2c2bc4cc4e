-- Loop packs are made by workers like what is heard; the archive lies beside its row until that is a week old.
ALTER TABLE estimate DROP CONSTRAINT estimate_kind_check;
ALTER TABLE estimate
    ADD CONSTRAINT estimate_kind_check CHECK (kind IN ('beats', 'swing', 'chords', 'offset', 'notes', 'solo', 'pack'));

-- Derived: files that workers made.
CREATE TABLE made_file (
    studio_id uuid NOT NULL,
    estimate_id uuid NOT NULL,
    name text NOT NULL,
    data bytea NOT NULL,
    PRIMARY KEY (studio_id, estimate_id),
    FOREIGN KEY (studio_id, estimate_id) REFERENCES estimate (studio_id, id) ON DELETE CASCADE
);
ALTER TABLE made_file ALTER COLUMN data SET STORAGE EXTERNAL;
