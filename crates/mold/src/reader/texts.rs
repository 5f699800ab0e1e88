//! The texts of a manifest that people read.

use super::context::ManifestReader;
use crate::codes;
use crate::manifest::{Placed, RawQuestion, TourEntry};
use crate::snippet::{Snippet, has_tag};
use std::ops::Range;
use tinmold_notation::Scope;

/// Refuses tags in texts that are not rendered: those of `others`, and what people read of questions.
pub(super) fn refuse_tags(reader: &mut ManifestReader, others: &[&Placed], questions: &[RawQuestion]) {
    for text in others {
        refuse_tag(reader, text);
    }
    for question in questions {
        reader.enter(question.origin);
        for text in [&question.ask, &question.help, &question.group].into_iter().flatten() {
            refuse_tag(reader, text);
        }
        for option in &question.option {
            refuse_tag(reader, &option.value);
            for text in [&option.label, &option.note, &option.more].into_iter().flatten() {
                refuse_tag(reader, text);
            }
        }
    }
    reader.enter(0);
}

fn refuse_tag(reader: &mut ManifestReader, text: &Placed) {
    if has_tag(text.get_ref()) {
        let help = "tags are allowed in defaults, [derive], folder, tour, next and finishing steps";
        let span = tag_span(&reader.source, text.span());
        reader.add(codes::TAG_IN_FIXED_TEXT, span, "this text must not hold tags", help);
    }
}

/// Returns the span of the first tag in a text of the manifest, or of the text if its tag is
/// written with escapes.
fn tag_span(source: &str, text: Range<usize>) -> Range<usize> {
    let raw = &source[text.clone()];
    let Some(start) = raw.find("{=") else { return text };
    let length = raw[start..].find("=}").map_or(raw.len() - start, |end| end + 2);
    text.start + start..text.start + start + length
}

/// Reads `[[tour]]`.
pub(super) fn tour(
    reader: &mut ManifestReader,
    stops: &[TourEntry],
    shown: &Scope,
) -> Vec<(Snippet, Snippet)> {
    let read = |stop: &TourEntry| {
        reader.enter(stop.origin);
        (reader.text(&stop.path, shown), reader.text(&stop.says, shown))
    };
    let stops = stops.iter().map(read).collect();
    reader.enter(0);
    stops
}

/// Reads the lines of `[next]`.
pub(super) fn lines(reader: &mut ManifestReader, lines: &[Placed], shown: &Scope) -> Vec<Snippet> {
    lines.iter().map(|line| reader.text(line, shown)).collect()
}
