-- What was recorded in one stroke is undone in one: the first entry of the stroke. Nothing in what was
-- written before: every entry by itself.
ALTER TABLE entry ADD COLUMN stroke INTEGER;
