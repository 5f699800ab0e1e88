package {= package =};

/**
 * How much a text holds.
 *
 * @param lines how many lines end in it
 * @param words how many words, with white space between them
 * @param characters how many UTF-16 code units
 */
public record Counts(long lines, long words, long characters) {
    /** Counts a text. */
    public static Counts of(String text) {
        long lines = text.chars().filter(c -> c == '\n').count();
        String trimmed = text.strip();
        long words = trimmed.isEmpty() ? 0 : trimmed.split("\\s+").length;
        return new Counts(lines, words, text.length());
    }

    /** Both together. */
    public Counts plus(Counts other) {
        return new Counts(lines + other.lines, words + other.words, characters + other.characters);
    }
}
