-- Who told an entry; nothing where nobody had signed in.
ALTER TABLE entry ADD COLUMN told_by TEXT;

CREATE TABLE account (
    name TEXT NOT NULL PRIMARY KEY,
    role TEXT NOT NULL,
    -- argon2id, in the PHC string format.
    secret TEXT NOT NULL,
    made_at TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- Who is signed in: only the hash of what the browser holds. Times are seconds of the epoch.
CREATE TABLE session (
    key_hash TEXT NOT NULL PRIMARY KEY,
    account TEXT NOT NULL REFERENCES account (name) ON DELETE CASCADE,
    state TEXT NOT NULL,
    device TEXT NOT NULL,
    began INTEGER NOT NULL,
    seen INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

CREATE INDEX session_of ON session (account);

-- A code that signs a device in once, for a few minutes.
CREATE TABLE pairing (
    code_hash TEXT NOT NULL PRIMARY KEY,
    account TEXT NOT NULL REFERENCES account (name) ON DELETE CASCADE,
    until INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- Signing in that failed, by whom and from where, and until when the next is refused.
CREATE TABLE attempt (
    who TEXT NOT NULL PRIMARY KEY,
    failed INTEGER NOT NULL,
    until INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- What signs the cookies.
CREATE TABLE cookie_key (
    one INTEGER NOT NULL PRIMARY KEY CHECK (one = 1),
    bytes BLOB NOT NULL
) STRICT;
