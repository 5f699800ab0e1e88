//! Reads `[preset.NAME]`.

use super::context::ManifestReader;
use super::question::{TooEarly, offered, span_of};
use crate::codes;
use crate::manifest::{Placed, RawPreset};
use crate::model::Preset;
use crate::question::Question;
use std::collections::BTreeMap;
use tinmold_notation::did_you_mean;

/// Returns the presets, with their answers judged as far as they are fixed.
pub(super) fn presets(
    reader: &mut ManifestReader,
    questions: &[Question],
    raw: Vec<(Placed, RawPreset)>,
) -> BTreeMap<String, Preset> {
    let never = TooEarly { later: &[], derived: &[] };
    let mut presets = BTreeMap::new();
    for (name, preset) in raw {
        let (mut answers, mut answer_spans) = (Vec::new(), Vec::new());
        for (key, value) in &preset.answers {
            let asked = |question: &&Question| question.is_asked();
            let Some(at) = questions.iter().position(|q| q.key == *key.get_ref() && q.is_asked()) else {
                let keys = questions.iter().filter(asked).map(|question| question.key.as_str());
                let help = did_you_mean(key.get_ref(), keys, "a preset answers questions of this mold");
                let message = format!("no question has the key `{}`", key.get_ref());
                reader.add(codes::UNKNOWN_KEY, key.span(), message, help);
                continue;
            };
            let question = &questions[at];
            if let Some(offered) = offered(reader, question.kind, &question.rules, value, &never) {
                answers.push((at, offered));
                answer_spans.push(span_of(&value.span()));
            }
        }
        let span = span_of(&name.span());
        presets.insert(name.into_inner(), Preset { summary: preset.summary, answers, span, answer_spans });
    }
    presets
}
