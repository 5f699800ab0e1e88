package {= package =}.notes;

import java.time.Instant;

/**
 * A note that is kept.
 *
 * @param id its number, from 1
 * @param text what it says
 * @param created when it came
 */
public record Note(long id, String text, Instant created) {}
