package notes
{= match web =}
{= case "std" =}

import (
	"errors"
	"net/http"
	"strconv"

	"{= module =}/internal/answer"
)

// Routes adds the routes of notes.
func Routes(mux *http.ServeMux, store *Store) {
	mux.HandleFunc("GET /notes", store.list)
	mux.HandleFunc("POST /notes", store.add)
	mux.HandleFunc("GET /notes/{id}", store.show)
}
{= case "chi" =}

import (
	"errors"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"{= module =}/internal/answer"
)

// Routes adds the routes of notes.
func Routes(router chi.Router, store *Store) {
	router.Route("/notes", func(router chi.Router) {
		router.Get("/", store.list)
		router.Post("/", store.add)
		router.Get("/{id}", store.show)
	})
}
{= case "gin" =}

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"
)

// Routes adds the routes of notes.
func Routes(router gin.IRouter, store *Store) {
	group := router.Group("/notes")
	group.Match([]string{http.MethodGet, http.MethodHead}, "", store.list)
	group.POST("", store.add)
	group.Match([]string{http.MethodGet, http.MethodHead}, "/:id", store.show)
}

func (s *Store) list(c *gin.Context) {
	asked := struct {
		After int64 `form:"after" binding:"min=0"`
		Limit int   `form:"limit,default=50" binding:"min=1,max=100"`
	}{}
	if err := c.ShouldBindQuery(&asked); err != nil {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": "after or limit is out of range"})
		return
	}
	found, err := s.After(c.Request.Context(), asked.After, asked.Limit)
	if err != nil {
		_ = c.Error(err)
		return
	}
	c.JSON(http.StatusOK, found)
}

func (s *Store) add(c *gin.Context) {
	var given struct {
		Text string `json:"text" binding:"required"`
	}
	if err := c.ShouldBindJSON(&given); err != nil {
		status := http.StatusUnprocessableEntity
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			status = http.StatusRequestEntityTooLarge
		}
		c.JSON(status, gin.H{"error": "an object with a text is wanted"})
		return
	}
	note, err := s.Add(c.Request.Context(), given.Text)
	switch {
	case errors.Is(err, ErrText):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": err.Error()})
	case err != nil:
		_ = c.Error(err)
	default:
		c.JSON(http.StatusCreated, note)
	}
}

func (s *Store) show(c *gin.Context) {
	var asked struct {
		ID int64 `uri:"id" binding:"min=1"`
	}
	if err := c.ShouldBindUri(&asked); err != nil {
		c.JSON(http.StatusNotFound, gin.H{"error": ErrNone.Error()})
		return
	}
	note, err := s.One(c.Request.Context(), asked.ID)
	switch {
	case errors.Is(err, ErrNone):
		c.JSON(http.StatusNotFound, gin.H{"error": err.Error()})
	case err != nil:
		_ = c.Error(err)
	default:
		c.JSON(http.StatusOK, note)
	}
}
{= case "echo" =}

import (
	"errors"
	"net/http"

	"github.com/labstack/echo/v5"
)

// Routes adds the routes of notes.
func Routes(router *echo.Echo, store *Store) {
	group := router.Group("/notes")
	group.Match([]string{http.MethodGet, http.MethodHead}, "", store.list)
	group.POST("", store.add)
	group.Match([]string{http.MethodGet, http.MethodHead}, "/:id", store.show)
}

func (s *Store) list(c *echo.Context) error {
	var after int64
	limit := 50
	err := echo.QueryParamsBinder(c).Int64("after", &after).Int("limit", &limit).BindError()
	if err != nil || after < 0 || limit < 1 || limit > 100 {
		return echo.NewHTTPError(http.StatusUnprocessableEntity, "after or limit is out of range")
	}
	found, err := s.After(c.Request().Context(), after, limit)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, found)
}

func (s *Store) add(c *echo.Context) error {
	var given struct {
		Text string `json:"text"`
	}
	if err := c.Bind(&given); err != nil {
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			return echo.NewHTTPError(http.StatusRequestEntityTooLarge, "the body is too large")
		}
		return err
	}
	note, err := s.Add(c.Request().Context(), given.Text)
	if errors.Is(err, ErrText) {
		return echo.NewHTTPError(http.StatusUnprocessableEntity, err.Error())
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, note)
}

func (s *Store) show(c *echo.Context) error {
	id, err := echo.PathParam[int64](c, "id")
	if err != nil {
		return echo.NewHTTPError(http.StatusNotFound, ErrNone.Error())
	}
	note, err := s.One(c.Request().Context(), id)
	if errors.Is(err, ErrNone) {
		return echo.NewHTTPError(http.StatusNotFound, err.Error())
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, note)
}
{= end =}
{= if plain =}

func (s *Store) list(w http.ResponseWriter, r *http.Request) {
	after, wrongAfter := number(r, "after", 0)
	limit, wrongLimit := number(r, "limit", 50)
	if wrongAfter != nil || wrongLimit != nil || after < 0 || limit < 1 || limit > 100 {
		answer.Problem(w, r, http.StatusUnprocessableEntity, "after or limit is out of range")
		return
	}
	found, err := s.After(r.Context(), after, int(limit))
	if err != nil {
		answer.Failure(w, r, err)
		return
	}
	answer.JSON(w, r, http.StatusOK, found)
}

func (s *Store) add(w http.ResponseWriter, r *http.Request) {
	var given struct {
		Text string `json:"text"`
	}
	if !answer.Read(w, r, &given) {
		return
	}
	note, err := s.Add(r.Context(), given.Text)
	switch {
	case errors.Is(err, ErrText):
		answer.Problem(w, r, http.StatusUnprocessableEntity, err.Error())
	case err != nil:
		answer.Failure(w, r, err)
	default:
		answer.JSON(w, r, http.StatusCreated, note)
	}
}

func (s *Store) show(w http.ResponseWriter, r *http.Request) {
	id, err := strconv.ParseInt(r.PathValue("id"), 10, 64)
	if err != nil {
		answer.Problem(w, r, http.StatusNotFound, ErrNone.Error())
		return
	}
	note, err := s.One(r.Context(), id)
	switch {
	case errors.Is(err, ErrNone):
		answer.Problem(w, r, http.StatusNotFound, err.Error())
	case err != nil:
		answer.Failure(w, r, err)
	default:
		answer.JSON(w, r, http.StatusOK, note)
	}
}

// number gives a parameter of the query.
func number(r *http.Request, name string, otherwise int64) (int64, error) {
	given := r.URL.Query().Get(name)
	if given == "" {
		return otherwise, nil
	}
	return strconv.ParseInt(given, 10, 64)
}
{= end =}
