-- A sum of every entry over itself and the sum before it, and one of every version of a record: what was changed behind our back,
-- or cut off at the end, is named.
CREATE TABLE entry_sum (
    job_id INTEGER NOT NULL,
    seq INTEGER NOT NULL,
    sum BLOB NOT NULL,
    PRIMARY KEY (job_id, seq)
) STRICT, WITHOUT ROWID;

CREATE TABLE version_sum (
    instrument_id INTEGER NOT NULL,
    version INTEGER NOT NULL,
    sum BLOB NOT NULL,
    PRIMARY KEY (instrument_id, version)
) STRICT, WITHOUT ROWID;

CREATE TRIGGER entry_sum_is_never_changed BEFORE UPDATE ON entry_sum
BEGIN
    SELECT RAISE (ABORT, 'a journal is append-only');
END;

CREATE TRIGGER entry_sum_is_never_removed BEFORE DELETE ON entry_sum
BEGIN
    SELECT RAISE (ABORT, 'a journal is append-only');
END;

CREATE TRIGGER version_sum_is_never_changed BEFORE UPDATE ON version_sum
BEGIN
    SELECT RAISE (ABORT, 'the history of an instrument is append-only');
END;

CREATE TRIGGER version_sum_is_never_removed BEFORE DELETE ON version_sum
BEGIN
    SELECT RAISE (ABORT, 'the history of an instrument is append-only');
END;

-- What one press of a form recorded: sent twice, it is recorded once.
CREATE TABLE press (
    press TEXT NOT NULL PRIMARY KEY,
    job_id INTEGER NOT NULL,
    seq INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

CREATE INDEX press_of_job ON press (job_id, seq);
