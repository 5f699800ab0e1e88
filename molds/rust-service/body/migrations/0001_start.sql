-- Each step runs once. To change the database, add another file and name it in src/database.rs.
CREATE TABLE notes (
  number integer PRIMARY KEY,
  text text NOT NULL
);
INSERT INTO notes (text) VALUES ('The first note');
