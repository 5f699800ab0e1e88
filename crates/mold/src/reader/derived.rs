//! Reads `[derive]` and orders the values: each comes as soon as everything it needs is known.

use super::context::ManifestReader;
use super::earlier::earlier_keys;
use super::question;
use crate::codes;
use crate::manifest::{DerivedEntry, RawQuestion};
use crate::model::{DerivedValue, ResolveStep};
use crate::question::Question;
use crate::snippet::Snippet;
use std::ops::Range;
use tinmold_notation::{Code, Compiled, NameId, Scope, Traits, Type, unknown_name, unknown_name_in_text};

/// The questions and derived values, in order.
#[derive(Default)]
pub(super) struct Asked {
    pub(super) questions: Vec<Question>,
    pub(super) derived: Vec<DerivedValue>,
    pub(super) steps: Vec<ResolveStep>,
}

impl Asked {
    /// Adds the questions and derived values of a manifest after the existing ones.
    pub(super) fn and(
        self,
        reader: &mut ManifestReader,
        raw: Vec<RawQuestion>,
        derive: Vec<DerivedEntry>,
    ) -> Self {
        let Self { mut questions, derived, mut steps } = self;
        let mut pending = Pending::new(reader, derive, derived);
        earlier_keys(reader, &raw);
        let keys: Vec<String> = raw.iter().map(|raw| raw.key.get_ref().clone()).collect();
        for (at, raw) in raw.into_iter().enumerate() {
            pending.order(reader, &mut steps);
            reader.enter(raw.origin);
            if let Some(question) = question::read(reader, raw, &keys[at..], &pending.names()) {
                steps.push(ResolveStep::Question(questions.len()));
                questions.push(question);
            }
        }
        pending.order(reader, &mut steps);
        reader.enter(0);
        Self { questions, derived: pending.finish(reader), steps }
    }
}

/// The derived values that wait for a name.
struct Pending {
    waiting: Vec<Waiting>,
    done: Vec<DerivedValue>,
}

struct Waiting {
    key: String,
    origin: usize,
    span: Range<usize>,
    snippet: Snippet,
    is_expression: bool,
    /// The name that was missing at the last try.
    lacks: Option<String>,
}

impl Waiting {
    /// Returns a name that is still missing, as far as that shows without compiling.
    fn still_lacks(&self, scope: &Scope) -> Option<String> {
        match &self.lacks {
            Some(name) if scope.find(name).is_none() => Some(name.clone()),
            _ if self.is_expression => unknown_name(self.snippet.text(), scope).map(str::to_owned),
            _ => unknown_name_in_text(self.snippet.text(), scope).map(str::to_owned),
        }
    }

    fn compile<T>(&self, scope: &Scope, then: impl FnOnce(Compiled<'_>) -> T) -> T {
        if self.is_expression {
            self.snippet.with_expression(scope, None, then)
        } else {
            self.snippet.with_text(scope, true, then)
        }
    }
}

/// A name that a derived value needs and that is not known yet.
struct LacksName(String);

impl Pending {
    fn new(reader: &mut ManifestReader, derive: Vec<DerivedEntry>, done: Vec<DerivedValue>) -> Self {
        let waiting = derive.into_iter().map(|entry| {
            reader.enter(entry.origin);
            Waiting {
                origin: entry.origin,
                span: entry.key.span(),
                snippet: reader.snippet(&entry.text),
                is_expression: entry.is_expression,
                key: entry.key.into_inner(),
                lacks: None,
            }
        });
        let waiting = waiting.collect();
        reader.enter(0);
        Self { waiting, done }
    }

    /// Returns the names that are defined later.
    fn names(&self) -> Vec<String> {
        self.waiting.iter().map(|waiting| waiting.key.clone()).collect()
    }

    /// Orders every derived value whose names are known.
    fn order(&mut self, reader: &mut ManifestReader, steps: &mut Vec<ResolveStep>) {
        loop {
            let before = self.done.len();
            for mut value in std::mem::take(&mut self.waiting) {
                value.lacks = value.still_lacks(&reader.scope);
                if value.lacks.is_none() {
                    match compile(reader, &value) {
                        Ok(derived) => {
                            steps.push(ResolveStep::Derive(self.done.len()));
                            self.done.push(derived);
                            continue;
                        }
                        Err(LacksName(name)) => value.lacks = Some(name),
                    }
                }
                self.waiting.push(value);
            }
            if self.done.len() == before {
                return;
            }
        }
    }

    /// Reports unknown names and circles, and returns the values in order.
    fn finish(self, reader: &mut ManifestReader) -> Vec<DerivedValue> {
        let keys: Vec<&str> = self.waiting.iter().map(|value| value.key.as_str()).collect();
        for value in &self.waiting {
            let lacks = value.lacks.as_deref().unwrap_or("");
            reader.enter(value.origin);
            if keys.contains(&lacks) {
                let message = format!("`{}` is computed from `{lacks}`, which cannot be computed", value.key);
                let help = "derived values may not need each other in a circle";
                reader.add(codes::DERIVE_CIRCLE, value.span.clone(), message, help);
                continue;
            }
            let findings = value.compile(&reader.scope, |compiled| compiled.findings);
            reader.findings.extend(findings);
        }
        reader.enter(0);
        self.done
    }
}

fn compile(reader: &mut ManifestReader, value: &Waiting) -> Result<DerivedValue, LacksName> {
    let (of, findings, traits) = value.compile(&reader.scope, |compiled| {
        let unknown = compiled.findings.iter().find(|finding| finding.code == Code::UnknownName);
        if let Some(name) = unknown.and_then(|finding| finding.subject.as_deref()) {
            return Err(LacksName(name.to_owned()));
        }
        let of = compiled.program.as_ref().map_or(Type::Unknown, |program| program.value_type());
        Ok((of, compiled.findings, compiled.traits))
    })?;
    reader.findings.extend(findings);
    reader.enter(value.origin);
    let of = if value.is_expression { of } else { Type::Text };
    let id = reader.scope.add(&value.key, of).unwrap_or_else(|error| {
        let message = format!("`{}` cannot be a name here", value.key);
        reader.add(codes::BAD_KEY, value.span.clone(), message, error.to_string());
        NameId::default()
    });
    reader.scope.set_traits(id, Traits { free: traits.free && of == Type::Text, ..traits });
    Ok(DerivedValue { snippet: value.snippet.clone(), is_expression: value.is_expression, id })
}
