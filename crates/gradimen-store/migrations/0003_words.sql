-- Words of the job list are found anywhere inside what can be searched: by threes of letters (FTS5's trigram tokenizer),
-- where LIKE had to look at every job. It keeps no copy of the text.
CREATE VIRTUAL TABLE job_words USING fts5 (search, content = 'job', content_rowid = 'id', tokenize = 'trigram');
INSERT INTO job_words (job_words) VALUES ('rebuild');

CREATE TRIGGER job_words_added AFTER INSERT ON job
BEGIN
    INSERT INTO job_words (rowid, search) VALUES (new.id, new.search);
END;

CREATE TRIGGER job_words_changed AFTER UPDATE OF search ON job WHEN old.search <> new.search
BEGIN
    INSERT INTO job_words (job_words, rowid, search) VALUES ('delete', old.id, old.search);
    INSERT INTO job_words (rowid, search) VALUES (new.id, new.search);
END;

CREATE TRIGGER job_words_removed AFTER DELETE ON job
BEGIN
    INSERT INTO job_words (job_words, rowid, search) VALUES ('delete', old.id, old.search);
END;

-- Counting by stage reads this and not what is searched.
CREATE INDEX job_stage ON job (stage_order);
