-- Check. A solo is heard whole by one job; how far its check is, is derived and stands with the versions it was made from.
ALTER TABLE estimate DROP CONSTRAINT estimate_kind_check;
ALTER TABLE estimate
    ADD CONSTRAINT estimate_kind_check CHECK (kind IN ('beats', 'swing', 'chords', 'offset', 'notes', 'solo'));

CREATE TABLE solo_check (
    studio_id uuid NOT NULL REFERENCES studio ON DELETE CASCADE,
    solo_id uuid NOT NULL,
    solo_version integer NOT NULL,
    ground_version integer NOT NULL,
    open integer NOT NULL, -- findings
    done double precision NOT NULL, -- the share of bars that were listened to and hold no open finding
    PRIMARY KEY (studio_id, solo_id),
    FOREIGN KEY (studio_id, solo_id) REFERENCES solo (studio_id, id) ON DELETE CASCADE
);
