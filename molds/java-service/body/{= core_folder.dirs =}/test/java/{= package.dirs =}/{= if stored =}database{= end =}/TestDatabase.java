package {= package =}.database;

// {= if database == "postgres" =}
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
// {= end =}
import java.util.UUID;
// {= if spring =}
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;
import org.springframework.jdbc.datasource.DriverManagerDataSource;
// {= end =}

/**
 * {= if database == "h2" =}A database in memory, for a test.{= else =}A schema of its own for a test, which goes with it, on the server that TEST_JDBC_URL names.{= end =}
 *
 * @param url where it is, as JDBC writes it
 */
// {= if database == "h2" =}
public record TestDatabase(String url) {
    /**
     * Makes one.
     *
     * @return an empty database
     */
    public static TestDatabase create() {
        return new TestDatabase("jdbc:h2:mem:" + UUID.randomUUID() + ";DB_CLOSE_DELAY=-1");
    }
    // {= if spring =}

    /**
     * Connects, and makes the tables.
     *
     * @return the database
     */
    public DataSource migrated() {
        DataSource source = new DriverManagerDataSource(url);
        Flyway.configure().dataSource(source).load().migrate();
        return source;
    }
    // {= end =}
}
// {= else =}
public record TestDatabase(String url, String schema) implements AutoCloseable {
    private static final String SERVER = System.getenv("TEST_JDBC_URL");

    /**
     * Makes one.
     *
     * @return an empty schema
     */
    public static TestDatabase create() {
        String schema = "test_" + UUID.randomUUID().toString().replace('-', '_');
        execute("create schema " + schema);
        return new TestDatabase(SERVER + (SERVER.contains("?") ? "&" : "?") + "currentSchema=" + schema, schema);
    }
    // {= if spring =}

    /**
     * Connects, and makes the tables.
     *
     * @return the database
     */
    public DataSource migrated() {
        DataSource source = new DriverManagerDataSource(url);
        Flyway.configure().dataSource(source).load().migrate();
        return source;
    }
    // {= end =}

    @Override
    public void close() {
        execute("drop schema " + schema + " cascade");
    }

    private static void execute(String sql) {
        try (Connection connection = DriverManager.getConnection(SERVER);
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        } catch (SQLException error) {
            throw new IllegalStateException(error);
        }
    }
}
// {= end =}
