-- Each step runs once. To change the database, add another file; its name gives its place.
CREATE TABLE notes (
  number {= if database == "sqlite" =}integer PRIMARY KEY{= else =}integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY{= end =},
  text text NOT NULL
);
INSERT INTO notes (text) VALUES ('The first note');
CREATE TABLE accounts (
  name text PRIMARY KEY,
  salt {= if database == "sqlite" =}blob{= else =}bytea{= end =} NOT NULL,
  hash {= if database == "sqlite" =}blob{= else =}bytea{= end =} NOT NULL
);
