-- +goose Up
-- Several crews on one server: each row belongs to one. What there is already is the
-- first crew's.
CREATE TABLE crews (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name          text    NOT NULL,
    demo          boolean NOT NULL DEFAULT false, -- its people sign in by one touch, on this machine only
    currency      text    NOT NULL DEFAULT '',    -- by ISO 4217; empty: not said
    next_number   integer NOT NULL DEFAULT 1,     -- of jobs
    shelf_version bigint  NOT NULL DEFAULT 1      -- goes up whenever the shelf changes
);
INSERT INTO crews (name, currency, next_number)
    SELECT 'Our crew', currency, COALESCE((SELECT max(number) FROM jobs WHERE number < 999999), 0) + 1 FROM crew
    WHERE EXISTS (SELECT FROM people) OR EXISTS (SELECT FROM jobs) OR EXISTS (SELECT FROM shelf_parts);
DROP TABLE crew;

ALTER TABLE job_revisions DROP CONSTRAINT job_revisions_job_id_fkey, DROP CONSTRAINT job_revisions_pkey, DROP CONSTRAINT job_revisions_job_id_edit_id_key;
ALTER TABLE photos DROP CONSTRAINT photos_job_id_fkey, DROP CONSTRAINT photos_pkey;
ALTER TABLE jobs DROP CONSTRAINT jobs_pkey, DROP CONSTRAINT jobs_number_key, ADD COLUMN crew_id bigint REFERENCES crews (id);
UPDATE jobs SET crew_id = (SELECT id FROM crews);
ALTER TABLE jobs ALTER COLUMN crew_id SET NOT NULL, ADD PRIMARY KEY (crew_id, id), ADD UNIQUE (crew_id, number);

ALTER TABLE people DROP CONSTRAINT people_name_key,
    ADD COLUMN crew_id  bigint REFERENCES crews (id),
    ADD COLUMN sign_in  text UNIQUE,                    -- the name typed to sign in, in small letters; null: never invited
    ADD COLUMN password text NOT NULL DEFAULT '',       -- argon2id; empty: not set yet
    ADD COLUMN blocked  boolean NOT NULL DEFAULT false,
    ADD COLUMN epoch    integer NOT NULL DEFAULT 0;     -- goes up to end every session
UPDATE people SET crew_id = (SELECT id FROM crews);
ALTER TABLE people ALTER COLUMN crew_id SET NOT NULL, ADD UNIQUE (crew_id, name);

ALTER TABLE job_revisions
    ADD COLUMN crew_id   bigint,
    ADD COLUMN person_id bigint REFERENCES people (id), -- whose undo takes it back; null: nobody's
    ADD COLUMN sum       bytea,                         -- of what was sent: the same edit ID with another is refused
    ADD COLUMN touches   jsonb;                         -- what it changed, to find what clashes; null: an older program's
UPDATE job_revisions SET crew_id = (SELECT id FROM crews), person_id = (SELECT id FROM people WHERE name = author);
ALTER TABLE job_revisions ALTER COLUMN crew_id SET NOT NULL, ADD PRIMARY KEY (crew_id, job_id, number), ADD UNIQUE (crew_id, job_id, edit_id),
    ADD FOREIGN KEY (crew_id, job_id) REFERENCES jobs (crew_id, id) ON DELETE CASCADE;

ALTER TABLE photos ADD COLUMN crew_id bigint;
UPDATE photos SET crew_id = (SELECT id FROM crews);
ALTER TABLE photos ALTER COLUMN crew_id SET NOT NULL, ADD PRIMARY KEY (crew_id, id),
    ADD FOREIGN KEY (crew_id, job_id) REFERENCES jobs (crew_id, id) ON DELETE CASCADE;

ALTER TABLE shelf_parts DROP CONSTRAINT shelf_parts_pkey, ADD COLUMN crew_id bigint REFERENCES crews (id);
UPDATE shelf_parts SET crew_id = (SELECT id FROM crews);
ALTER TABLE shelf_parts ALTER COLUMN crew_id SET NOT NULL, ADD PRIMARY KEY (crew_id, kind, id);

-- A link by which somebody sets their password; its token is kept as a sum only.
CREATE TABLE invitations (
    token_sum  bytea PRIMARY KEY,
    crew_id    bigint NOT NULL REFERENCES crews (id),
    person_id  bigint NOT NULL REFERENCES people (id),
    expires_at timestamptz NOT NULL
);

-- A link by which a customer reads the papers of a job.
CREATE TABLE customer_links (
    token_sum    bytea PRIMARY KEY,
    crew_id      bigint NOT NULL,
    job_id       uuid   NOT NULL,
    made_by      text   NOT NULL,
    made_at      timestamptz NOT NULL,
    withdrawn_at timestamptz,
    FOREIGN KEY (crew_id, job_id) REFERENCES jobs (crew_id, id) ON DELETE CASCADE
);

-- Jobs that were erased: their number is not given again, and an edit that comes late is told.
CREATE TABLE erased_jobs (
    crew_id bigint  NOT NULL REFERENCES crews (id),
    job_id  uuid    NOT NULL,
    number  integer NOT NULL,
    by      text    NOT NULL,
    at      timestamptz NOT NULL,
    PRIMARY KEY (crew_id, job_id)
);

-- Failed attempts to sign in, by the name typed and by the address.
CREATE TABLE attempts (
    about text NOT NULL,
    at    timestamptz NOT NULL
);
CREATE INDEX ON attempts (about, at);

CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX ON sessions (expiry);

-- Who has which job open, on which stage: worth nothing after a crash.
CREATE UNLOGGED TABLE presence (
    client    uuid PRIMARY KEY,
    crew_id   bigint NOT NULL,
    job_id    uuid   NOT NULL,
    person_id bigint NOT NULL,
    stage     text   NOT NULL,
    at        timestamptz NOT NULL
);
CREATE INDEX ON presence (crew_id, job_id);

-- +goose Down
DROP TABLE presence, sessions, attempts, erased_jobs, customer_links, invitations;
ALTER TABLE shelf_parts DROP CONSTRAINT shelf_parts_pkey, DROP COLUMN crew_id, ADD PRIMARY KEY (kind, id);
ALTER TABLE photos DROP COLUMN crew_id, ADD PRIMARY KEY (id);
ALTER TABLE job_revisions DROP COLUMN crew_id, DROP COLUMN person_id, DROP COLUMN sum, DROP COLUMN touches, ADD PRIMARY KEY (job_id, number), ADD UNIQUE (job_id, edit_id);
ALTER TABLE people DROP COLUMN crew_id, DROP COLUMN sign_in, DROP COLUMN password, DROP COLUMN blocked, DROP COLUMN epoch, ADD UNIQUE (name);
ALTER TABLE jobs DROP COLUMN crew_id, ADD PRIMARY KEY (id), ADD UNIQUE (number);
ALTER TABLE job_revisions ADD FOREIGN KEY (job_id) REFERENCES jobs (id);
ALTER TABLE photos ADD FOREIGN KEY (job_id) REFERENCES jobs (id);
CREATE TABLE crew (id smallint PRIMARY KEY DEFAULT 1 CHECK (id = 1), currency text NOT NULL DEFAULT '');
INSERT INTO crew (currency) SELECT COALESCE((SELECT currency FROM crews ORDER BY id LIMIT 1), '');
DROP TABLE crews;
