//! The stable codes of findings on a mold beyond its notation.

use tinmold_notation::Code;

/// `mold.toml` is not TOML, or not UTF-8.
pub const UNREADABLE_MANIFEST: Code = Code::error("unreadable-manifest");
/// A key that means nothing there.
pub const UNKNOWN_KEY: Code = Code::error("unknown-key");
/// A key that must be there is not, or its value has another shape.
pub const WRONG_SHAPE: Code = Code::error("wrong-shape");
/// The mold needs another version of the program.
pub const OTHER_PROGRAM: Code = Code::error("other-program");
/// A name, version or owner that does not have its form.
pub const BAD_HEADER: Code = Code::error("bad-header");
/// A key that cannot be the name of a question or derived value.
pub const BAD_KEY: Code = Code::error("bad-key");
/// A form that there is not.
pub const UNKNOWN_FORM: Code = Code::error("unknown-form");
/// Something that does not go with the question's kind.
pub const WRONG_RULE: Code = Code::error("wrong-rule");
/// A pattern that is no regular expression.
pub const BAD_PATTERN: Code = Code::error("bad-pattern");
/// A question with options that has none, or two with one value.
pub const BAD_OPTIONS: Code = Code::error("bad-options");
/// A default, hidden or preset value that the question would refuse.
pub const BAD_VALUE: Code = Code::error("bad-value");
/// Options that require each other in a circle, or what they exclude.
pub const BAD_REQUIRES: Code = Code::error("bad-requires");
/// A default or `when` that uses what is answered later.
pub const USED_TOO_EARLY: Code = Code::error("used-too-early");
/// Derived values that are computed from each other in a circle.
pub const DERIVE_CIRCLE: Code = Code::error("derive-circle");
/// A tag in a text that is not rendered.
pub const TAG_IN_FIXED_TEXT: Code = Code::error("tag-in-fixed-text");
/// Marks that cannot be marks.
pub const BAD_MARKS: Code = Code::error("bad-marks");
/// A pattern of `[[files]]` that cannot be read.
pub const BAD_MATCH: Code = Code::error("bad-match");
/// The project's folder would not be one portable name.
pub const BAD_FOLDER: Code = Code::error("bad-folder");
/// Two entries always have the same path.
pub const SAME_PATH: Code = Code::error("same-path");
/// A path that a project must not have.
pub const UNSAFE_PATH: Code = Code::error("unsafe-path");
/// A file with secrets that the project's ignore file does not cover.
pub const UNCOVERED_SECRET: Code = Code::error("uncovered-secret");
/// An output that is not of its format.
pub const MALFORMED_OUTPUT: Code = Code::error("malformed-output");
/// More files than a cast may write.
pub const TOO_MANY_FILES: Code = Code::error("too-many-files");
/// More bytes than a cast may copy.
pub const TOO_MANY_BYTES: Code = Code::error("too-many-bytes");
/// A file that cannot be read.
pub const UNREADABLE_FILE: Code = Code::error("unreadable-file");
/// A tool that cannot be one, or a range of versions that cannot be read.
pub const BAD_NEED: Code = Code::error("bad-need");
/// A finishing step that cannot run, or has a name that is taken.
pub const BAD_STEP: Code = Code::error("bad-step");
/// A part whose name is not its folder's, or that uses what nothing records.
pub const BAD_PART: Code = Code::error("bad-part");
/// A part adds lines at a joint that the mold does not cast, or adds none.
pub const BAD_JOINT: Code = Code::error("bad-joint");
/// A part changes a file in a way that does not go with what the mold casts.
pub const BAD_EDIT: Code = Code::error("bad-edit");
/// An earlier name that cannot be one.
pub const BAD_WAS: Code = Code::error("bad-was");
/// A source of the project that its language cannot read.
pub const MALFORMED_CODE: Code = Code::warning("malformed-code");
/// A default that some other answer makes illegal.
pub const FRAGILE_DEFAULT: Code = Code::warning("fragile-default");
/// A default or preset that ticks an option that is not offered with it, or answers what is not asked.
pub const IDLE_ANSWER: Code = Code::warning("idle-answer");
/// A value that is empty, since its question was not asked, is put in.
pub const EMPTY_VALUE: Code = Code::warning("empty-value");
/// A file with tags that is not rendered.
pub const NEVER_RENDERED: Code = Code::warning("never-rendered");
/// A file that no answers write.
pub const NEVER_WRITTEN: Code = Code::warning("never-written");
/// A branch that no answers reach.
pub const NEVER_REACHED: Code = Code::warning("never-reached");
/// A fragment that no file places.
pub const UNUSED_FRAGMENT: Code = Code::warning("unused-fragment");
/// A file that editors and systems leave behind.
pub const JUNK_FILE: Code = Code::warning("junk-file");
/// A file for everybody that git would not commit.
pub const IGNORED_FILE: Code = Code::warning("ignored-file");
/// A link to a file that is not written.
pub const DANGLING_LINK: Code = Code::warning("dangling-link");
/// A text that names a file that is not written.
pub const MISSING_PATH: Code = Code::warning("missing-path");
/// A text or step that names a make target or npm script that there is not.
pub const MISSING_TARGET: Code = Code::warning("missing-target");
/// An option that no expression names, and that falls into an `else`.
pub const FORGOTTEN_OPTION: Code = Code::warning("forgotten-option");
/// An edit that makes a table whose name is near to that of another.
pub const NEW_TABLE: Code = Code::warning("new-table");
/// An answer to a part that writes where the mold has written.
pub const TAKEN_PATH: Code = Code::warning("taken-path");
/// A line before a joint that lacks the comma of the lines that are put there.
pub const MISSING_COMMA: Code = Code::warning("missing-comma");
/// More sets of answers than a check may cast.
pub const TOO_MUCH_TO_CHECK: Code = Code::warning("too-much-to-check");
/// A question without a default to which no answer is known, so that nothing can be tried.
pub const NEEDS_EXAMPLE: Code = Code::warning("needs-example");
/// A layer that is not there, or whose path or answers cannot be.
pub const BAD_LAYER: Code = Code::error("bad-layer");
/// Two layers, or a layer and the mold, have one path.
pub const LAYER_CLASH: Code = Code::error("layer-clash");
/// A question that nothing uses.
pub const UNUSED_QUESTION: Code = Code::warning("unused-question");
/// A pattern of `[[files]]` that matches no file.
pub const UNUSED_RULE: Code = Code::warning("unused-rule");
