-- When an instrument is to come back, from the line of its last job; and when a job was opened, from its journal.
ALTER TABLE job ADD COLUMN due TEXT;
CREATE INDEX job_due ON job (due) WHERE due IS NOT NULL;
