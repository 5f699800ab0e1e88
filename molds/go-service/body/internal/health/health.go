// Package health says whether the service runs, and whether it can answer.
package health
{= match web =}
{= case "gin" =}

import (
	// {= if stored =}
	"context"
	"log/slog"
	// {= end =}
	"net/http"

	"github.com/gin-gonic/gin"
)

// Routes adds the routes of health.
{= if stored =}
func Routes(router gin.IRouter, ask func(context.Context) error) {
{= else =}
func Routes(router gin.IRouter) {
{= end =}
	read := []string{http.MethodGet, http.MethodHead}
	router.Match(read, "/health", func(c *gin.Context) {
		c.JSON(http.StatusOK, gin.H{"status": "running"})
	})
	router.Match(read, "/ready", func(c *gin.Context) {
		// {= if stored =}
		if err := ask(c.Request.Context()); err != nil {
			slog.ErrorContext(c.Request.Context(), "the database does not answer", "error", err)
			c.JSON(http.StatusServiceUnavailable, gin.H{"error": "the database does not answer"})
			return
		}
		// {= end =}
		c.JSON(http.StatusOK, gin.H{"status": "ready"})
	})
}
{= case "echo" =}

import (
	// {= if stored =}
	"context"
	// {= end =}
	"net/http"

	"github.com/labstack/echo/v5"
)

// Routes adds the routes of health.
{= if stored =}
func Routes(router *echo.Echo, ask func(context.Context) error) {
{= else =}
func Routes(router *echo.Echo) {
{= end =}
	read := []string{http.MethodGet, http.MethodHead}
	router.Match(read, "/health", func(c *echo.Context) error {
		return c.JSON(http.StatusOK, map[string]string{"status": "running"})
	})
	router.Match(read, "/ready", func(c *echo.Context) error {
		// {= if stored =}
		if err := ask(c.Request().Context()); err != nil {
			return echo.NewHTTPError(http.StatusServiceUnavailable, "the database does not answer").Wrap(err)
		}
		// {= end =}
		return c.JSON(http.StatusOK, map[string]string{"status": "ready"})
	})
}
{= else =}

import (
	// {= if stored =}
	"context"
	"log/slog"
	// {= end =}
	"net/http"

	// {= if web == "chi" =}
	"github.com/go-chi/chi/v5"

	// {= end =}
	"{= module =}/internal/answer"
)

// Routes adds the routes of health.
{= if stored =}
func Routes(router {= if web == "chi" =}chi.Router{= else =}*http.ServeMux{= end =}, ask func(context.Context) error) {
{= else =}
func Routes(router {= if web == "chi" =}chi.Router{= else =}*http.ServeMux{= end =}) {
{= end =}
	router.{= if web == "chi" =}Get("{= else =}HandleFunc("GET {= end =}/health", func(w http.ResponseWriter, r *http.Request) {
		answer.JSON(w, r, http.StatusOK, map[string]string{"status": "running"})
	})
	router.{= if web == "chi" =}Get("{= else =}HandleFunc("GET {= end =}/ready", func(w http.ResponseWriter, r *http.Request) {
		// {= if stored =}
		if err := ask(r.Context()); err != nil {
			slog.ErrorContext(r.Context(), "the database does not answer", "error", err)
			answer.Problem(w, r, http.StatusServiceUnavailable, "the database does not answer")
			return
		}
		// {= end =}
		answer.JSON(w, r, http.StatusOK, map[string]string{"status": "ready"})
	})
}
{= end =}
