//! The stable codes of findings on a mold beyond its notation.

use tinmold_notation::Code;

macro_rules! codes {
    ($($(#[doc = $doc:literal])* $constant:ident $severity:ident $code:literal),* $(,)?) => {
        $($(#[doc = $doc])* pub const $constant: Code = Code::$severity($code);)*

        /// Every code of this crate with the mistake that it stands for.
        pub const DESCRIBED: &[(Code, &str)] = &[$(($constant, concat!($($doc),*)),)*];
    };
}

codes! {
    /// `mold.toml` is not TOML, or not UTF-8.
    UNREADABLE_MANIFEST error "unreadable-manifest",
    /// A key that means nothing there.
    UNKNOWN_KEY error "unknown-key",
    /// A key that must be there is not, or its value has another shape.
    WRONG_SHAPE error "wrong-shape",
    /// The mold needs another version of the program.
    OTHER_PROGRAM error "other-program",
    /// A name, version or owner that does not have its form.
    BAD_HEADER error "bad-header",
    /// A key that cannot be the name of a question or derived value.
    BAD_KEY error "bad-key",
    /// A form that there is not.
    UNKNOWN_FORM error "unknown-form",
    /// Something that does not go with the question's kind.
    WRONG_RULE error "wrong-rule",
    /// A pattern that is no regular expression.
    BAD_PATTERN error "bad-pattern",
    /// A question with options that has none, or two with one value.
    BAD_OPTIONS error "bad-options",
    /// A default, hidden or preset value that the question would refuse.
    BAD_VALUE error "bad-value",
    /// Options that require each other in a circle, or what they exclude.
    BAD_REQUIRES error "bad-requires",
    /// A default or `when` that uses what is answered later.
    USED_TOO_EARLY error "used-too-early",
    /// Derived values that are computed from each other in a circle.
    DERIVE_CIRCLE error "derive-circle",
    /// A tag in a text that is not rendered.
    TAG_IN_FIXED_TEXT error "tag-in-fixed-text",
    /// Marks that cannot be marks.
    BAD_MARKS error "bad-marks",
    /// A pattern of `[[files]]` that cannot be read.
    BAD_MATCH error "bad-match",
    /// The project's folder would not be one portable name.
    BAD_FOLDER error "bad-folder",
    /// Two entries always have the same path.
    SAME_PATH error "same-path",
    /// A path that a project must not have.
    UNSAFE_PATH error "unsafe-path",
    /// A file with secrets that the project's ignore file does not cover.
    UNCOVERED_SECRET error "uncovered-secret",
    /// An output that is not of its format.
    MALFORMED_OUTPUT error "malformed-output",
    /// More files than a cast may write.
    TOO_MANY_FILES error "too-many-files",
    /// More bytes than a cast may copy.
    TOO_MANY_BYTES error "too-many-bytes",
    /// A file that cannot be read.
    UNREADABLE_FILE error "unreadable-file",
    /// A tool that cannot be one, or a range of versions that cannot be read.
    BAD_NEED error "bad-need",
    /// A finishing step that cannot run, or has a name that is taken.
    BAD_STEP error "bad-step",
    /// A part whose name is not its folder's, or that uses what nothing records.
    BAD_PART error "bad-part",
    /// A part adds lines at a joint that the mold does not cast, or adds none.
    BAD_JOINT error "bad-joint",
    /// A part changes a file in a way that does not go with what the mold casts.
    BAD_EDIT error "bad-edit",
    /// An earlier name that cannot be one.
    BAD_WAS error "bad-was",
    /// A source of the project that its language cannot read.
    MALFORMED_CODE warning "malformed-code",
    /// A default that some other answer makes illegal.
    FRAGILE_DEFAULT warning "fragile-default",
    /// A default or preset that ticks an option that is not offered with it, or answers what is not asked.
    IDLE_ANSWER warning "idle-answer",
    /// A value that is empty, since its question was not asked, is put in.
    EMPTY_VALUE warning "empty-value",
    /// A file with tags that is not rendered.
    NEVER_RENDERED warning "never-rendered",
    /// A file that no answers write.
    NEVER_WRITTEN warning "never-written",
    /// A branch that no answers reach.
    NEVER_REACHED warning "never-reached",
    /// A fragment that no file places.
    UNUSED_FRAGMENT warning "unused-fragment",
    /// A file that editors and systems leave behind.
    JUNK_FILE warning "junk-file",
    /// A file for everybody that git would not commit.
    IGNORED_FILE warning "ignored-file",
    /// A link to a file that is not written.
    DANGLING_LINK warning "dangling-link",
    /// A text that names a file that is not written.
    MISSING_PATH warning "missing-path",
    /// A text or step that names a make target or npm script that there is not.
    MISSING_TARGET warning "missing-target",
    /// An option that no expression names, and that falls into an `else`.
    FORGOTTEN_OPTION warning "forgotten-option",
    /// An edit that makes a table whose name is near to that of another.
    NEW_TABLE warning "new-table",
    /// An answer to a part that writes where the mold has written.
    TAKEN_PATH warning "taken-path",
    /// A line before a joint that lacks the comma of the lines that are put there.
    MISSING_COMMA warning "missing-comma",
    /// More sets of answers than a check may cast.
    TOO_MUCH_TO_CHECK warning "too-much-to-check",
    /// A question without a default to which no answer is known, so that nothing can be tried.
    NEEDS_EXAMPLE warning "needs-example",
    /// A layer that is not there, or whose path or answers cannot be.
    BAD_LAYER error "bad-layer",
    /// Two layers, or a layer and the mold, have one path.
    LAYER_CLASH error "layer-clash",
    /// A question that nothing uses.
    UNUSED_QUESTION warning "unused-question",
    /// A pattern of `[[files]]` that matches no file.
    UNUSED_RULE warning "unused-rule",
}
