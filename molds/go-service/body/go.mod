module {= module =}

go 1.26.0
{= if needs =}

require (
	{= if web == "gin" =}
	github.com/gin-gonic/gin v1.12.0
	{= end =}
	{= if web == "chi" =}
	github.com/go-chi/chi/v5 v5.5.0
	{= end =}
	{= if database == "postgres" =}
	github.com/jackc/pgx/v5 v5.13.0
	{= end =}
	{= if stored =}
	github.com/joho/godotenv v1.5.1
	{= end =}
	{= if web == "echo" =}
	github.com/labstack/echo/v5 v5.4.5
	{= end =}
	{= if stored =}
	github.com/pressly/goose/v3 v3.30.1
	{= end =}
	{= if database == "sqlite" =}
	modernc.org/sqlite v1.62.0
	{= end =}
	// joint: dependencies (tinmold)
)
{= end =}
