package {= package =}.notes;

import java.util.List;
import java.util.Optional;

/** Keeps notes. */
public interface Notes {
    /** The most characters of a note. */
    int LONGEST = 2000;

    /**
     * Keeps a note.
     *
     * @param text what it says, of at most {@link #LONGEST} characters
     * @return the note with its number
     */
    Note add(String text);

    /**
     * Finds a note.
     *
     * @param id its number
     * @return the note, if there is one of that number
     */
    Optional<Note> find(long id);

    /**
     * Lists notes, the oldest first.
     *
     * @param after the number before the first one
     * @param limit how many at most
     * @return those notes
     */
    List<Note> list(long after, int limit);
}
