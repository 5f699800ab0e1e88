//! `[derive]`: each value gets its place in the order as soon as all that it needs is known.

use super::loader::{DerivedValue, Reader, Step};
use super::manifest::{Derived, Placed};
use super::snippet::Snippet;
use crate::codes;
use std::collections::BTreeMap;
use std::ops::Range;
use tinmold_notation::{Code, NameId, Scope, Traits, Type, unknown_name, unknown_name_in_text};

/// The derived values that wait for a name.
pub(super) struct Pending {
    waiting: Vec<Waiting>,
    done: Vec<DerivedValue>,
}

struct Waiting {
    key: String,
    span: Range<usize>,
    snippet: Snippet,
    is_expression: bool,
    /// The name that it lacked when it was last tried.
    lacks: Option<String>,
}

impl Waiting {
    /// A name that it lacks still, as far as that can be told without compiling it.
    fn still_lacks(&self, scope: &Scope) -> Option<String> {
        match &self.lacks {
            Some(name) if scope.find(name).is_none() => Some(name.clone()),
            _ if self.is_expression => unknown_name(self.snippet.text(), scope).map(str::to_owned),
            _ => unknown_name_in_text(self.snippet.text(), scope).map(str::to_owned),
        }
    }
}

impl Pending {
    /// The values that `derive` asks for, behind those that are computed already.
    pub(super) fn new(
        reader: &mut Reader<'_>,
        derive: BTreeMap<Placed, Derived>,
        done: Vec<DerivedValue>,
    ) -> Self {
        let waiting = derive.into_iter().map(|(key, derived)| {
            let span = key.span();
            let (text, is_expression) = match derived {
                Derived::Text(text) => (text, false),
                Derived::Expression(expression) => (expression.is, true),
            };
            let at = value_span(reader.source, &span, &text);
            let snippet = Snippet::new(text, at, &reader.file, reader.source);
            Waiting { key: key.into_inner(), span, snippet, is_expression, lacks: None }
        });
        Self { waiting: waiting.collect(), done }
    }

    /// The names that are still to come.
    pub(super) fn names(&self) -> Vec<String> {
        self.waiting.iter().map(|waiting| waiting.key.clone()).collect()
    }

    /// Gives every derived value its place as soon as all it needs is known.
    pub(super) fn settle(&mut self, reader: &mut Reader<'_>, steps: &mut Vec<Step>) {
        loop {
            let before = self.done.len();
            let waiting = std::mem::take(&mut self.waiting);
            for mut value in waiting {
                value.lacks = value.still_lacks(&reader.scope);
                if value.lacks.is_none() {
                    match self.compile(reader, &value) {
                        Ok(derived) => {
                            steps.push(Step::Derive(self.done.len()));
                            self.done.push(derived);
                            continue;
                        }
                        Err(lacks) => value.lacks = Some(lacks),
                    }
                }
                self.waiting.push(value);
            }
            if self.done.len() == before {
                return;
            }
        }
    }

    /// The compiled value, or the name that it lacks.
    fn compile(&self, reader: &mut Reader<'_>, value: &Waiting) -> Result<DerivedValue, String> {
        let judge = |compiled: tinmold_notation::Compiled<'_>| {
            let unknown = compiled.findings.iter().find(|finding| finding.code == Code::UnknownName);
            if let Some(unknown) = unknown {
                let name = unknown.message.split('`').nth(1).unwrap_or("").to_owned();
                return Err(name);
            }
            let of = compiled.program.as_ref().map_or(Type::Unknown, |program| program.value_type());
            Ok((of, compiled.findings, compiled.traits))
        };
        let (of, findings, traits) = if value.is_expression {
            value.snippet.with_expression(&reader.scope, None, judge)?
        } else {
            value.snippet.with_text(&reader.scope, true, judge)?
        };
        reader.findings.extend(findings);
        let of = if value.is_expression { of } else { Type::Text };
        let id = reader.scope.add(&value.key, of).unwrap_or_else(|error| {
            reader.add(
                codes::BAD_KEY,
                value.span.clone(),
                format!("`{}` cannot be a name here", value.key),
                error.to_string(),
            );
            NameId::default()
        });
        reader.scope.set_traits(id, Traits { free: traits.free && of == Type::Text, ..traits });
        Ok(DerivedValue { snippet: value.snippet.clone(), is_expression: value.is_expression, id })
    }

    /// Reports what could not be settled: unknown names, and circles.
    pub(super) fn finish(self, reader: &mut Reader<'_>) -> Vec<DerivedValue> {
        let keys: Vec<&str> = self.waiting.iter().map(|value| value.key.as_str()).collect();
        for value in &self.waiting {
            let lacks = value.lacks.as_deref().unwrap_or("");
            if keys.contains(&lacks) {
                let message = format!("`{}` is computed from `{lacks}`, which cannot be computed", value.key);
                let help = "derived values may not need each other in a circle";
                reader.add(codes::DERIVE_CIRCLE, value.span.clone(), message, help);
                continue;
            }
            let findings = if value.is_expression {
                value.snippet.with_expression(&reader.scope, None, |compiled| compiled.findings)
            } else {
                value.snippet.with_text(&reader.scope, true, |compiled| compiled.findings)
            };
            reader.findings.extend(findings);
        }
        self.done
    }
}

/// Where the text behind a key stands: the first place after the key where it is written.
fn value_span(source: &str, key: &Range<usize>, text: &str) -> Range<usize> {
    let rest = &source[key.end.min(source.len())..];
    match rest.find(text).filter(|_| !text.is_empty()) {
        Some(at) => {
            let start = key.end + at;
            let quoted = start > 0 && matches!(source.as_bytes()[start - 1], b'"' | b'\'');
            if quoted {
                start - 1..(start + text.len() + 1).min(source.len())
            } else {
                start..start + text.len()
            }
        }
        None => key.clone(),
    }
}
