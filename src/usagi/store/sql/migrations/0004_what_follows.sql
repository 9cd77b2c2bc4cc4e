-- What the core found to follow from an edit, beside what the person did (edit schema 2). Older edits hold both in changes.
ALTER TABLE edit ADD COLUMN follows jsonb NOT NULL DEFAULT '[]';
