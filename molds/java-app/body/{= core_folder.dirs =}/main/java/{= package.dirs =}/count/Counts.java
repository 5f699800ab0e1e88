package {= package =}.count;

import java.io.IOException;
import java.io.Reader;

/**
 * How much a text holds.
 *
 * @param lines how many lines end in it
 * @param words how many words, with white space between them
 * @param characters how many characters of Unicode
 */
public record Counts(long lines, long words, long characters) {
    /** A text without anything. */
    public static final Counts NONE = new Counts(0, 0, 0);

    private static final int PIECE = 1 << 16;

    /**
     * Counts a text of any length; a piece of it is in memory at a time.
     *
     * @param text the text
     * @return how much it holds
     * @throws IOException if it cannot be read to its end
     */
    public static Counts of(Reader text) throws IOException {
        long lines = 0;
        long words = 0;
        long characters = 0;
        boolean inWord = false;
        char[] piece = new char[PIECE];
        for (int length = text.read(piece); length >= 0; length = text.read(piece)) {
            for (int at = 0; at < length; at++) {
                char c = piece[at];
                boolean isSpace = Character.isWhitespace(c);
                if (c == '\n') {
                    lines++;
                }
                if (!isSpace && !inWord) {
                    words++;
                }
                // The second half of a pair belongs to the character before.
                if (!Character.isLowSurrogate(c)) {
                    characters++;
                }
                inWord = !isSpace;
            }
        }
        return new Counts(lines, words, characters);
    }

    /**
     * Counts both together.
     *
     * @param other the other text
     * @return how much both hold
     */
    public Counts plus(Counts other) {
        return new Counts(lines + other.lines, words + other.words, characters + other.characters);
    }
}
