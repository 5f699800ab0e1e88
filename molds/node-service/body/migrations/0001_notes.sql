{= if postgres =}
-- Up Migration
{= end =}
CREATE TABLE notes (
  id {= if sqlite =}INTEGER PRIMARY KEY AUTOINCREMENT{= else =}INTEGER GENERATED ALWAYS AS IDENTITY PRIMARY KEY{= end =},
  text TEXT NOT NULL
){= if sqlite =} STRICT{= end =};
