// Package settings reads every setting from the environment.
package settings

import (
	"errors"
	"fmt"
	"io"
	"log/slog"
	"strconv"
)

// Settings are what the environment says, or the defaults.
type Settings struct {
	Host      string
	Port      int
	LogFormat string
	LogLevel  slog.Level
	// {= if stored =}

	DatabaseURL string
	// {= end =}
}

// FromEnvironment reads the variables; look gives the value of one, as os.LookupEnv does.
// The error names every variable that cannot be used.
func FromEnvironment(look func(string) (string, bool)) (Settings, error) {
	var wrong []error
	value := func(name, otherwise string) string {
		if given, isThere := look(name); isThere && given != "" {
			return given
		}
		return otherwise
	}
	refuse := func(name, wanted string) {
		wrong = append(wrong, fmt.Errorf("%s is %q, and %s is wanted", name, value(name, ""), wanted))
	}
	settings := Settings{
		Host:      value("HOST", "127.0.0.1"),
		LogFormat: value("LOG_FORMAT", "{= log =}"),
	}
	// {= if database == "sqlite" =}
	settings.DatabaseURL = value("DATABASE_URL", "{= name =}.sqlite3")
	// {= end =}
	port, err := strconv.ParseUint(value("PORT", "{= port =}"), 10, 16)
	if err != nil {
		refuse("PORT", "a number from 0 to 65535")
	}
	settings.Port = int(port)
	if settings.LogFormat != "json" && settings.LogFormat != "text" {
		refuse("LOG_FORMAT", "json or text")
	}
	if err := settings.LogLevel.UnmarshalText([]byte(value("LOG_LEVEL", "INFO"))); err != nil {
		refuse("LOG_LEVEL", "DEBUG, INFO, WARN or ERROR")
	}
	// {= if database == "postgres" =}
	settings.DatabaseURL = value("DATABASE_URL", "")
	if settings.DatabaseURL == "" {
		refuse("DATABASE_URL", "an address as in .env.example")
	}
	// {= end =}
	return settings, errors.Join(wrong...)
}

// LogHandler writes the log in the chosen format.
func (s Settings) LogHandler(to io.Writer) slog.Handler {
	options := &slog.HandlerOptions{Level: s.LogLevel}
	if s.LogFormat == "text" {
		return slog.NewTextHandler(to, options)
	}
	return slog.NewJSONHandler(to, options)
}
