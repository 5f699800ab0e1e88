package {= package =};

/**
 * The start of a class.
 *
 * @param name what it is called
 */
public record {= class =}(String name) {
    /**
     * Makes one.
     *
     * @throws IllegalArgumentException if the name is blank
     */
    public {= class =} {
        if (name.isBlank()) {
            throw new IllegalArgumentException("the name is blank");
        }
    }
}
