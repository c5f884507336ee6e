-- 'GRAD': marks the file as ours.
PRAGMA application_id = 1196572996;

CREATE TABLE instrument (
    id INTEGER PRIMARY KEY,
    stock_number TEXT NOT NULL,
    name TEXT NOT NULL,
    version INTEGER NOT NULL,
    changed_at TEXT NOT NULL,
    search TEXT NOT NULL
) STRICT;

-- Every version an instrument's record ever had; a job keeps the one it was opened with.
CREATE TABLE instrument_version (
    instrument_id INTEGER NOT NULL REFERENCES instrument (id),
    version INTEGER NOT NULL,
    at TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body)),
    PRIMARY KEY (instrument_id, version)
) STRICT, WITHOUT ROWID;

-- stage_order, changed_at, search and summary are derived from the journal when it grows.
CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    instrument_id INTEGER NOT NULL REFERENCES instrument (id),
    seq INTEGER NOT NULL,
    stage_order INTEGER NOT NULL,
    changed_at TEXT NOT NULL,
    search TEXT NOT NULL,
    summary TEXT NOT NULL CHECK (json_valid(summary))
) STRICT;

CREATE INDEX job_list ON job (stage_order, changed_at DESC, search);
CREATE INDEX job_instrument ON job (instrument_id, id);

CREATE TABLE entry (
    job_id INTEGER NOT NULL REFERENCES job (id),
    seq INTEGER NOT NULL,
    at TEXT NOT NULL,
    version INTEGER NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body)),
    PRIMARY KEY (job_id, seq)
) STRICT, WITHOUT ROWID;

CREATE TRIGGER entry_is_never_changed BEFORE UPDATE ON entry
BEGIN
    SELECT RAISE (ABORT, 'a journal is append-only');
END;

CREATE TRIGGER entry_is_never_removed BEFORE DELETE ON entry
BEGIN
    SELECT RAISE (ABORT, 'a journal is append-only');
END;

CREATE TRIGGER instrument_version_is_never_changed BEFORE UPDATE ON instrument_version
BEGIN
    SELECT RAISE (ABORT, 'the history of an instrument is append-only');
END;

CREATE TRIGGER instrument_version_is_never_removed BEFORE DELETE ON instrument_version
BEGIN
    SELECT RAISE (ABORT, 'the history of an instrument is append-only');
END;
