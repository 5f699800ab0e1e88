package notes
{= match database =}
{= case "none" =}

import (
	"context"
	"sort"
	"sync"
)

const mostNotes = 1000

// Store keeps the newest notes in memory.
type Store struct {
	mu    sync.Mutex
	last  int64
	notes []Note
}

// NewStore gives an empty store.
func NewStore() *Store { return &Store{} }

// Add keeps a new note.
func (s *Store) Add(_ context.Context, text string) (Note, error) {
	text, err := clean(text)
	if err != nil {
		return Note{}, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.last++
	note := Note{s.last, text}
	s.notes = append(s.notes, note)
	if len(s.notes) > mostNotes {
		s.notes = append([]Note(nil), s.notes[1:]...)
	}
	return note, nil
}

// After gives notes with higher numbers than after, the lowest first.
func (s *Store) After(_ context.Context, after int64, limit int) ([]Note, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	from := s.from(after + 1)
	to := min(from+limit, len(s.notes))
	return append([]Note{}, s.notes[from:to]...), nil
}

// One gives the note with a number, or ErrNone.
func (s *Store) One(_ context.Context, id int64) (Note, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if at := s.from(id); at < len(s.notes) && s.notes[at].ID == id {
		return s.notes[at], nil
	}
	return Note{}, ErrNone
}

func (s *Store) from(id int64) int {
	return sort.Search(len(s.notes), func(at int) bool { return s.notes[at].ID >= id })
}
{= case "sqlite" =}

import (
	"context"
	"database/sql"
	"errors"
)

// Store keeps notes in the database.
type Store struct{ db *sql.DB }

// NewStore gives the store of a database whose tables are up to date.
func NewStore(db *sql.DB) *Store { return &Store{db} }

// Add keeps a new note.
func (s *Store) Add(ctx context.Context, text string) (Note, error) {
	text, err := clean(text)
	if err != nil {
		return Note{}, err
	}
	note := Note{Text: text}
	row := s.db.QueryRowContext(ctx, "INSERT INTO notes (text) VALUES (?) RETURNING id", text)
	return note, row.Scan(&note.ID)
}

// After gives notes with higher numbers than after, the lowest first.
func (s *Store) After(ctx context.Context, after int64, limit int) ([]Note, error) {
	rows, err := s.db.QueryContext(ctx,
		"SELECT id, text FROM notes WHERE id > ? ORDER BY id LIMIT ?", after, limit)
	if err != nil {
		return nil, err
	}
	defer func() { _ = rows.Close() }()
	found := []Note{}
	for rows.Next() {
		var note Note
		if err := rows.Scan(&note.ID, &note.Text); err != nil {
			return nil, err
		}
		found = append(found, note)
	}
	return found, rows.Err()
}

// One gives the note with a number, or ErrNone.
func (s *Store) One(ctx context.Context, id int64) (Note, error) {
	var note Note
	row := s.db.QueryRowContext(ctx, "SELECT id, text FROM notes WHERE id = ?", id)
	err := row.Scan(&note.ID, &note.Text)
	if errors.Is(err, sql.ErrNoRows) {
		return Note{}, ErrNone
	}
	return note, err
}
{= case "postgres" =}

import (
	"context"
	"errors"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
)

// Store keeps notes in the database.
type Store struct{ db *pgxpool.Pool }

// NewStore gives the store of a database whose tables are up to date.
func NewStore(db *pgxpool.Pool) *Store { return &Store{db} }

// Add keeps a new note.
func (s *Store) Add(ctx context.Context, text string) (Note, error) {
	text, err := clean(text)
	if err != nil {
		return Note{}, err
	}
	note := Note{Text: text}
	row := s.db.QueryRow(ctx, "INSERT INTO notes (text) VALUES ($1) RETURNING id", text)
	return note, row.Scan(&note.ID)
}

// After gives notes with higher numbers than after, the lowest first.
func (s *Store) After(ctx context.Context, after int64, limit int) ([]Note, error) {
	rows, err := s.db.Query(ctx,
		"SELECT id, text FROM notes WHERE id > $1 ORDER BY id LIMIT $2", after, limit)
	if err != nil {
		return nil, err
	}
	return pgx.AppendRows([]Note{}, rows, pgx.RowToStructByPos[Note])
}

// One gives the note with a number, or ErrNone.
func (s *Store) One(ctx context.Context, id int64) (Note, error) {
	rows, err := s.db.Query(ctx, "SELECT id, text FROM notes WHERE id = $1", id)
	if err != nil {
		return Note{}, err
	}
	note, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Note])
	if errors.Is(err, pgx.ErrNoRows) {
		return Note{}, ErrNone
	}
	return note, err
}
{= end =}
