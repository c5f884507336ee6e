-- The shop: its name, its times and prices, its tools and its target sets, as one document that is replaced as a whole.
CREATE TABLE shop (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    version INTEGER NOT NULL,
    changed_at TEXT NOT NULL,
    body TEXT NOT NULL
) STRICT;
