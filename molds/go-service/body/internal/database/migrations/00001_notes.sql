-- +goose Up
CREATE TABLE notes (
    id   {= if database == "postgres" =}bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY{= else =}integer PRIMARY KEY AUTOINCREMENT{= end =},
    text text NOT NULL
);

-- +goose Down
DROP TABLE notes;
