-- Each migration runs once, in the order of the numbers; one that has run is never changed.
CREATE TABLE notes (
    id {= if sqlite =}INTEGER PRIMARY KEY AUTOINCREMENT{= else =}BIGINT GENERATED ALWAYS AS IDENTITY PRIMARY KEY{= end =},
    text TEXT NOT NULL
);
