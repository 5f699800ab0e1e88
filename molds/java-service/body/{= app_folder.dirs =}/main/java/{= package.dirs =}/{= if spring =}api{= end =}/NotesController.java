package {= package =}.api;

{= place "java-import" given names = [
    "jakarta.validation.Valid",
    "jakarta.validation.constraints.Max",
    "jakarta.validation.constraints.Min",
    "jakarta.validation.constraints.NotBlank",
    "jakarta.validation.constraints.Pattern",
    "jakarta.validation.constraints.PositiveOrZero",
    "jakarta.validation.constraints.Size",
    "java.net.URI",
    "java.util.List",
    "org.springframework.http.HttpStatus",
    "org.springframework.http.MediaType",
    "org.springframework.http.ResponseEntity",
    "org.springframework.web.bind.annotation.GetMapping",
    "org.springframework.web.bind.annotation.PathVariable",
    "org.springframework.web.bind.annotation.PostMapping",
    "org.springframework.web.bind.annotation.RequestBody",
    "org.springframework.web.bind.annotation.RequestMapping",
    "org.springframework.web.bind.annotation.RequestParam",
    "org.springframework.web.bind.annotation.RestController",
    "org.springframework.web.server.ResponseStatusException",
    package + ".notes.Note",
    package + ".notes.Notes"
] =}

/** The notes over HTTP. */
@RestController
@RequestMapping("/notes")
class NotesController {
    private final Notes notes;

    NotesController(Notes notes) {
        this.notes = notes;
    }

    @GetMapping
    List<Note> list(
            @RequestParam(defaultValue = "0") @PositiveOrZero long after,
            @RequestParam(defaultValue = "20") @Min(1) @Max(100) int limit) {
        return notes.list(after, limit);
    }

    @GetMapping("/{id}")
    Note find(@PathVariable long id) {
        return notes.find(id)
                .orElseThrow(() -> new ResponseStatusException(HttpStatus.NOT_FOUND, "there is no note " + id));
    }

    @PostMapping(consumes = MediaType.APPLICATION_JSON_VALUE)
    ResponseEntity<Note> add(@RequestBody @Valid NewNote sent) {
        Note note = notes.add(sent.text().strip());
        return ResponseEntity.created(URI.create("/notes/" + note.id())).body(note);
    }

    /**
     * A note that is sent.
     *
     * @param text what it says; no database takes the character 0
     */
    record NewNote(
            @NotBlank @Size(max = Notes.LONGEST) @Pattern(regexp = "[^\\x00]*")
            String text) {}
}
