-- The shelf counts open questions; a lick that came as a document says so in plainer words.
UPDATE solo SET summary = summary || jsonb_build_object(
    'questions', coalesce((regexp_match(summary ->> 'next', '^(\d+) question'))[1]::int, 0)
) WHERE NOT summary ? 'questions';
UPDATE lick SET why_frozen = 'imported as a document' WHERE why_frozen = 'it came as a document';
