-- +goose Up
CREATE TABLE people (
    id   bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name text NOT NULL UNIQUE,
    role text NOT NULL
);

-- What lists of jobs sort, filter and show, worked out at every revision.
CREATE TABLE jobs (
    id         uuid PRIMARY KEY,
    number     integer NOT NULL UNIQUE,
    title      text NOT NULL,
    customer   text NOT NULL,
    rig        text NOT NULL,
    place      text NOT NULL,
    day        date,
    watts      integer NOT NULL,
    stops      integer NOT NULL,
    watches    integer NOT NULL,
    done       integer NOT NULL,
    next_stop  text NOT NULL,
    signed     boolean NOT NULL,
    revision   integer NOT NULL,
    updated_at timestamptz NOT NULL
);

-- Nothing is overwritten: every edit appends a revision.
CREATE TABLE job_revisions (
    job_id   uuid NOT NULL REFERENCES jobs (id),
    number   integer NOT NULL,
    document jsonb NOT NULL,
    edit     jsonb NOT NULL,
    inverse  jsonb NOT NULL,
    edit_id  uuid NOT NULL,
    undoes   uuid,
    author   text NOT NULL,
    says     text NOT NULL,
    reason   text NOT NULL,
    at       timestamptz NOT NULL,
    PRIMARY KEY (job_id, number),
    UNIQUE (job_id, edit_id)
);

CREATE TABLE shelf_parts (
    kind     text NOT NULL,
    id       text NOT NULL,
    position integer NOT NULL,
    data     jsonb NOT NULL,
    PRIMARY KEY (kind, id)
);

-- +goose Down
DROP TABLE shelf_parts, job_revisions, jobs, people;
