// Package {= route =} is a resource: what it answers, and its HTTP.
package {= route =}
{= match web =}
{= case "std" =}

import (
	"net/http"

	"{= module =}/internal/answer"
)

// Routes adds the route.
func Routes(mux *http.ServeMux) {
	mux.HandleFunc("GET /{= route =}", list)
}
{= case "chi" =}

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"{= module =}/internal/answer"
)

// Routes adds the route.
func Routes(router chi.Router) {
	router.Get("/{= route =}", list)
}
{= case "gin" =}

import (
	"net/http"

	"github.com/gin-gonic/gin"
)

// Routes adds the route.
func Routes(router gin.IRouter) {
	router.Match([]string{http.MethodGet, http.MethodHead}, "/{= route =}", list)
}

func list(c *gin.Context) {
	c.JSON(http.StatusOK, []string{})
}
{= case "echo" =}

import (
	"net/http"

	"github.com/labstack/echo/v5"
)

// Routes adds the route.
func Routes(router *echo.Echo) {
	router.Match([]string{http.MethodGet, http.MethodHead}, "/{= route =}", list)
}

func list(c *echo.Context) error {
	return c.JSON(http.StatusOK, []string{})
}
{= end =}
{= if plain =}

func list(w http.ResponseWriter, r *http.Request) {
	answer.JSON(w, r, http.StatusOK, []string{})
}
{= end =}
