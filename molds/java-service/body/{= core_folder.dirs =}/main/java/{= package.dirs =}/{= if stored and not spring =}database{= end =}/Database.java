package {= package =}.database;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import java.sql.Connection;
import java.sql.SQLException;
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;

/** The database: a pool of connections to it, and the migrations that make its tables. */
public final class Database implements AutoCloseable {
    private final HikariDataSource pool;

    private Database(HikariDataSource pool) {
        this.pool = pool;
    }

    /**
     * Connects, and brings the tables up to date. Where several start at once, one migrates and the others wait.
     *
     * @param url where it is, as JDBC writes it
     * @param user who asks; empty if the URL says so
     * @param password the password; empty if the URL says so
     * @return the database, open
     */
    public static Database open(String url, String user, String password) {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(url);
        if (!user.isEmpty()) {
            config.setUsername(user);
            config.setPassword(password);
        }
        config.setMaximumPoolSize(10);
        config.setConnectionTimeout(5_000);
        config.setValidationTimeout(2_000);
        HikariDataSource pool = new HikariDataSource(config);
        try {
            Flyway.configure().dataSource(pool).load().migrate();
        } catch (RuntimeException error) {
            pool.close();
            throw error;
        }
        return new Database(pool);
    }

    /**
     * Tells where connections come from.
     *
     * @return the pool
     */
    public DataSource source() {
        return pool;
    }

    /**
     * Asks the database whether it is there.
     *
     * @return whether it answered
     */
    public boolean isReady() {
        try (Connection connection = pool.getConnection()) {
            return connection.isValid(2);
        } catch (SQLException error) {
            return false;
        }
    }

    @Override
    public void close() {
        pool.close();
    }
}
