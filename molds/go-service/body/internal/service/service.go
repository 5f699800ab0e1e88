// Package service puts the service together: its routes, what stands around them, and the server.
package service
{= match web =}
{= case "std" =}

import (
	// {= if database == "sqlite" =}
	"database/sql"
	// {= end =}
	"net/http"

	// {= if database == "postgres" =}
	"github.com/jackc/pgx/v5/pgxpool"

	// {= end =}
	"{= module =}/internal/health"
	"{= module =}/internal/notes"
	"{= module =}/internal/requests"
	// joint: imports (tinmold)
)

// New gives the service.
func New(store *notes.Store{= if stored =}, db *{= if database == "postgres" =}pgxpool.Pool{= else =}sql.DB{= end =}{= end =}) http.Handler {
	mux := http.NewServeMux()
	health.Routes(mux{= if stored =}, db.{= if database == "postgres" =}Ping{= else =}PingContext{= end =}{= end =})
	notes.Routes(mux, store)
	// joint: routes (tinmold)
	return requests.Around(mux)
}
{= case "chi" =}

import (
	// {= if database == "sqlite" =}
	"database/sql"
	// {= end =}
	"net/http"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	// {= if database == "postgres" =}
	"github.com/jackc/pgx/v5/pgxpool"
	// {= end =}

	"{= module =}/internal/health"
	"{= module =}/internal/notes"
	"{= module =}/internal/requests"
	// joint: imports (tinmold)
)

// New gives the service.
func New(store *notes.Store{= if stored =}, db *{= if database == "postgres" =}pgxpool.Pool{= else =}sql.DB{= end =}{= end =}) http.Handler {
	router := chi.NewRouter()
	router.Use(requests.Around, middleware.GetHead)
	health.Routes(router{= if stored =}, db.{= if database == "postgres" =}Ping{= else =}PingContext{= end =}{= end =})
	notes.Routes(router, store)
	// joint: routes (tinmold)
	return router
}
{= case "gin" =}

import (
	// {= if database == "sqlite" =}
	"database/sql"
	// {= end =}
	"log/slog"
	"net/http"

	"github.com/gin-gonic/gin"
	// {= if database == "postgres" =}
	"github.com/jackc/pgx/v5/pgxpool"
	// {= end =}

	"{= module =}/internal/health"
	"{= module =}/internal/notes"
	"{= module =}/internal/requests"
	// joint: imports (tinmold)
)

// New gives the service.
func New(store *notes.Store{= if stored =}, db *{= if database == "postgres" =}pgxpool.Pool{= else =}sql.DB{= end =}{= end =}) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	router := gin.New()
	router.HandleMethodNotAllowed = true
	router.Use(tellFailures)
	health.Routes(router{= if stored =}, db.{= if database == "postgres" =}Ping{= else =}PingContext{= end =}{= end =})
	notes.Routes(router, store)
	// joint: routes (tinmold)
	return requests.Around(router)
}

// tellFailures answers what a handler could not: only the log tells what it was.
func tellFailures(c *gin.Context) {
	c.Next()
	if failure := c.Errors.Last(); failure != nil && !c.Writer.Written() {
		slog.ErrorContext(c.Request.Context(), "a request failed", "error", failure)
		c.JSON(http.StatusInternalServerError, gin.H{"error": "something went wrong"})
	}
}
{= case "echo" =}

import (
	// {= if database == "sqlite" =}
	"database/sql"
	// {= end =}
	"errors"
	"log/slog"
	"net/http"

	// {= if database == "postgres" =}
	"github.com/jackc/pgx/v5/pgxpool"
	// {= end =}
	"github.com/labstack/echo/v5"

	"{= module =}/internal/health"
	"{= module =}/internal/notes"
	"{= module =}/internal/requests"
	// joint: imports (tinmold)
)

// New gives the service.
func New(store *notes.Store{= if stored =}, db *{= if database == "postgres" =}pgxpool.Pool{= else =}sql.DB{= end =}{= end =}) http.Handler {
	router := echo.New()
	router.HTTPErrorHandler = tellFailures(echo.DefaultHTTPErrorHandler(false))
	health.Routes(router{= if stored =}, db.{= if database == "postgres" =}Ping{= else =}PingContext{= end =}{= end =})
	notes.Routes(router, store)
	// joint: routes (tinmold)
	return requests.Around(router)
}

// tellFailures writes into the log what the answer does not tell.
func tellFailures(next echo.HTTPErrorHandler) echo.HTTPErrorHandler {
	return func(c *echo.Context, err error) {
		var known echo.HTTPStatusCoder
		if !errors.As(err, &known) || known.StatusCode() >= http.StatusInternalServerError {
			slog.ErrorContext(c.Request().Context(), "a request failed", "error", err)
		}
		next(c, err)
	}
}
{= end =}
