package {= package =};

/**
 * {= does.comment("") =}
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
