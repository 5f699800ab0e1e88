//! `[[question]]`: from the manifest's shape to a question with types, its rules checked against its kind.

use super::loader::Preset;
use super::loader::Reader;
use super::manifest::{Placed, RawKind, RawOption, RawPreset, RawQuestion};
use super::question::{Kind, Offered, OptionInfo, Question, Rules, typed};
use super::snippet::{Snippet, has_tag};
use crate::answers::{Form, check_value};
use crate::codes;
use std::collections::BTreeMap;
use std::ops::Range;
use tinmold_notation::{
    Choices, ChoicesId, Code, FieldValue, Finding, Span, Traits, Type, Value, did_you_mean,
};

/// Reads one question. `later` are the keys of this question and those after it, `derived` the derived values that
/// cannot be computed yet.
pub(super) fn read(
    reader: &mut Reader<'_>,
    raw: RawQuestion,
    later: &[String],
    derived: &[String],
) -> Option<Question> {
    let key = raw.key.get_ref().clone();
    let span = raw.key.span();
    if later[1..].contains(&key) {
        reader.add(codes::BAD_KEY, span, format!("two questions have the key `{key}`"), "keys are unique");
        return None;
    }
    let early = TooEarly { later, derived };
    let when = raw.when.as_ref().map(|when| condition(reader, when, &early));
    let raw_kind = *raw.kind.get_ref();
    let (choices, options) = read_options(reader, &raw, raw_kind, &early);
    let kind = kind(reader, &raw, choices);
    let rules = rules(reader, &raw, kind);
    let read = |reader: &mut Reader<'_>, value: &Option<toml::Spanned<toml::Value>>| {
        value.as_ref().and_then(|value| offered(reader, kind, &rules, value, &early))
    };
    let default = read(reader, &raw.default);
    let hidden = read(reader, &raw.hidden);
    if let Some(hidden) = &raw.hidden
        && raw.when.is_none()
    {
        let help = "leave it out, or add `when`";
        reader.add(codes::WRONG_RULE, hidden.span(), "`hidden` is for questions with a `when`", help);
    }
    let of = kind.value_type(when.is_some() && hidden.is_none());
    let id = match reader.scope.add(&key, of) {
        Ok(id) => id,
        Err(error) => {
            reader.add(
                codes::BAD_KEY,
                span,
                format!("`{key}` cannot be the key of a question"),
                error.to_string(),
            );
            return None;
        }
    };
    let free = matches!(kind, Kind::Text | Kind::Texts)
        && rules.pattern.is_none()
        && rules.form.is_none_or(Form::is_free);
    let path = rules.form == Some(Form::Path);
    let minted = matches!(kind, Kind::Minted { .. });
    reader.scope.set_traits(id, Traits { minted, free, path });
    if raw.ask.is_none() && !minted {
        reader.add(codes::WRONG_SHAPE, raw.key.span(), "the key `ask` is missing here", "say what is asked");
    }
    Some(Question {
        ask: raw.ask.unwrap_or_else(|| key.clone()),
        help: raw.help,
        group: raw.group,
        kind,
        rules,
        options,
        when,
        default,
        hidden,
        from_folder: raw.from_folder,
        detail: raw.detail,
        from_casting: false,
        id,
        span: Span::new(span.start, span.end),
        key,
    })
}

/// What a default or `when` may not use yet.
pub(super) struct TooEarly<'a> {
    later: &'a [String],
    derived: &'a [String],
}

impl TooEarly<'_> {
    /// Says of an unknown name that it is only unknown yet.
    fn explain(&self, findings: &mut [Finding]) {
        for finding in findings.iter_mut().filter(|finding| finding.code == Code::UnknownName) {
            let Some(name) = finding.message.split('`').nth(1).map(str::to_owned) else { continue };
            if self.later.contains(&name) {
                finding.code = codes::USED_TOO_EARLY;
                finding.message = if self.later.first() == Some(&name) {
                    format!("`{name}` is this question itself")
                } else {
                    format!("`{name}` is asked later")
                };
                finding.help = "defaults and `when` see earlier questions: change their order".into();
            } else if self.derived.contains(&name) {
                finding.code = codes::USED_TOO_EARLY;
                finding.message = format!("`{name}` is computed from what is asked later");
                finding.help =
                    "defaults and `when` see derived values that need earlier questions only".into();
            }
        }
    }
}

fn condition(reader: &mut Reader<'_>, text: &Placed, early: &TooEarly<'_>) -> Snippet {
    let snippet = reader.snippet(text);
    let mut findings = snippet.with_expression(&reader.scope, Some(Type::Flag), |compiled| compiled.findings);
    early.explain(&mut findings);
    reader.findings.extend(findings);
    snippet
}

fn kind(reader: &mut Reader<'_>, raw: &RawQuestion, choices: Option<ChoicesId>) -> Kind {
    let kind = match (raw.kind.get_ref(), choices) {
        (RawKind::Text, _) => Kind::Text,
        (RawKind::Texts, _) => Kind::Texts,
        (RawKind::Flag, _) => Kind::Flag,
        (RawKind::Integer, _) => Kind::Integer,
        (RawKind::OneOf, Some(of)) => Kind::OneOf(of),
        (RawKind::SomeOf, Some(of)) => Kind::SomeOf(of),
        (RawKind::Minted, _) => {
            let length = raw.length.as_ref().map_or(32, |length| *length.get_ref());
            if !(8..=1024).contains(&length) {
                let span = raw.length.as_ref().map_or(0..0, toml::Spanned::span);
                reader.add(codes::WRONG_RULE, span, "a minted value has 8 to 1024 characters", "");
            }
            Kind::Minted { length }
        }
        (RawKind::OneOf | RawKind::SomeOf, None) => Kind::Text,
    };
    if let Some(length) = &raw.length
        && !matches!(kind, Kind::Minted { .. })
    {
        reader.add(
            codes::WRONG_RULE,
            length.span(),
            "`length` is for minted values",
            "bound a text with `max`",
        );
    }
    kind
}

fn read_options(
    reader: &mut Reader<'_>,
    raw: &RawQuestion,
    kind: RawKind,
    early: &TooEarly<'_>,
) -> (Option<ChoicesId>, Vec<OptionInfo>) {
    let with_options = matches!(kind, RawKind::OneOf | RawKind::SomeOf);
    if !with_options {
        if let Some(option) = raw.option.first() {
            let help = "options are for questions of kind one-of and some-of";
            reader.add(codes::WRONG_RULE, option.value.span(), "this question takes no options", help);
        }
        return (None, Vec::new());
    }
    if raw.option.is_empty() {
        let help = "add a [[question.option]] with a value";
        reader.add(codes::BAD_OPTIONS, raw.kind.span(), "this question has no options", help);
    }
    let mut choices = Choices::new(raw.key.get_ref());
    let mut options = Vec::new();
    for (at, option) in raw.option.iter().enumerate() {
        let value = option.value.get_ref();
        if value.is_empty() || value.chars().any(char::is_control) {
            let help = "a value is a line of text that is not empty";
            reader.add(codes::BAD_OPTIONS, option.value.span(), "this cannot be an option's value", help);
        }
        if choices.position(value).is_some() {
            let help = "values are unique";
            reader.add(codes::BAD_OPTIONS, option.value.span(), "another option has this value", help);
        }
        let label = option.label.clone().unwrap_or_else(|| value.clone());
        choices.add(value, &label);
        read_fields(reader, &mut choices, at, option);
        let when = option.when.as_ref().map(|when| condition(reader, when, early));
        options.push(OptionInfo {
            value: value.clone(),
            label,
            note: option.note.clone(),
            more: option.more.clone(),
            when,
            requires: named(reader, raw, &option.requires),
            excludes: named(reader, raw, &option.excludes),
        });
    }
    super::check::requirements(reader, raw, &options);
    (Some(reader.scope.add_choices(choices)), options)
}

fn read_fields(reader: &mut Reader<'_>, choices: &mut Choices, at: usize, option: &RawOption) {
    for (name, value) in &option.with {
        let field = match value.get_ref() {
            toml::Value::String(text) => FieldValue::Text(text.clone()),
            toml::Value::Integer(number) => FieldValue::Integer(*number),
            toml::Value::Boolean(flag) => FieldValue::Flag(*flag),
            _ => {
                let help = "a field is a text, a whole number, true or false";
                reader.add(codes::WRONG_SHAPE, value.span(), "this cannot be a field", help);
                continue;
            }
        };
        if let Err(error) = choices.set_field(at, name.get_ref(), field) {
            let message = format!("`{}` cannot be a field here", name.get_ref());
            reader.add(codes::BAD_OPTIONS, name.span(), message, error.to_string());
        }
    }
}

/// The positions of the options with these values.
fn named(reader: &mut Reader<'_>, raw: &RawQuestion, values: &[Placed]) -> Vec<u16> {
    let known = || raw.option.iter().map(|option| option.value.get_ref().as_str());
    let mut positions = Vec::new();
    for value in values {
        match known().position(|other| other == value.get_ref()) {
            Some(at) => positions.extend(u16::try_from(at)),
            None => {
                let message = format!("`{}` has no option {:?}", raw.key.get_ref(), value.get_ref());
                let help = did_you_mean(value.get_ref(), known(), "name one of its options");
                reader.add(Code::NotAnOption, value.span(), message, help);
            }
        }
    }
    positions
}

fn rules(reader: &mut Reader<'_>, raw: &RawQuestion, kind: Kind) -> Rules {
    let of_text = matches!(kind, Kind::Text | Kind::Texts);
    let mut only_text = |there: Option<Range<usize>>, what: &str| {
        if let Some(span) = there.filter(|_| !of_text) {
            reader.add(
                codes::WRONG_RULE,
                span,
                format!("`{what}` is for questions of kind text and texts"),
                "",
            );
        }
    };
    let is_port = kind == Kind::Integer && raw.form.as_ref().is_some_and(|form| form.get_ref() == "port");
    only_text(raw.form.as_ref().filter(|_| !is_port).map(toml::Spanned::span), "form");
    only_text(raw.except.first().map(toml::Spanned::span), "except");
    only_text(raw.pattern.as_ref().map(toml::Spanned::span), "pattern");
    let form = raw.form.as_ref().and_then(|form| {
        let found = Form::of_name(form.get_ref());
        if found.is_none() {
            let all = Form::ALL.iter().map(|form| form.name()).collect::<Vec<_>>();
            let help =
                did_you_mean(form.get_ref(), all.iter().copied(), format!("there are {}", all.join(", ")));
            reader.add(
                codes::UNKNOWN_FORM,
                form.span(),
                format!("there is no form `{}`", form.get_ref()),
                help,
            );
        }
        found
    });
    let pattern = raw.pattern.as_ref().and_then(|pattern| {
        let whole = format!("^(?:{})$", pattern.get_ref());
        let built = regex::RegexBuilder::new(&whole).size_limit(1 << 20).build();
        built
            .map_err(|error| {
                let message = error.to_string();
                let reason = message.lines().last().unwrap_or("").trim_start_matches("error: ").to_owned();
                reader.add(
                    codes::BAD_PATTERN,
                    pattern.span(),
                    format!("this is no regular expression: {reason}"),
                    "",
                );
            })
            .ok()
    });
    if matches!(kind, Kind::Flag | Kind::OneOf(_) | Kind::Minted { .. }) {
        for bound in [&raw.min, &raw.max].into_iter().flatten() {
            let help = "bounds are for integers, and for the length of texts and lists";
            reader.add(codes::WRONG_RULE, bound.span(), "this question takes no bounds", help);
        }
    }
    let (min, max) = (raw.min.as_ref().map(|min| *min.get_ref()), raw.max.as_ref().map(|max| *max.get_ref()));
    if let (Some(low), Some(high), Some(at)) = (min, max, &raw.min)
        && low > high
    {
        reader.add(codes::WRONG_RULE, at.span(), format!("`min` {low} is more than `max` {high}"), "");
    }
    Rules {
        form,
        pattern,
        pattern_help: raw.pattern_help.clone(),
        except: raw.except.iter().map(|text| text.get_ref().clone()).collect(),
        min,
        max,
        optional: raw.optional,
    }
}

/// A default or hidden value. A fixed one is checked at once; a rendered one when its answers are known.
fn offered(
    reader: &mut Reader<'_>,
    kind: Kind,
    rules: &Rules,
    value: &toml::Spanned<toml::Value>,
    early: &TooEarly<'_>,
) -> Option<Offered> {
    let span = value.span();
    if matches!(kind, Kind::Minted { .. }) {
        let help = "it is made anew for every casting";
        reader.add(codes::WRONG_RULE, span, "a minted value has no default", help);
        return None;
    }
    let is_tagged = |value: &toml::Value| value.as_str().is_some_and(has_tag);
    let text = |reader: &mut Reader<'_>, text: &str| {
        let snippet = Snippet::new(text, span.clone(), &reader.file, reader.source);
        snippet
            .with_text(&reader.scope, false, |compiled| {
                let mut findings = compiled.findings;
                early.explain(&mut findings);
                findings
            })
            .into_iter()
            .for_each(|finding| reader.findings.push(finding));
        snippet
    };
    match value.get_ref() {
        toml::Value::String(source) if is_tagged(value.get_ref()) => {
            if matches!(kind, Kind::Texts | Kind::SomeOf(_)) {
                let help = "write a list";
                reader.add(codes::BAD_VALUE, span, "a list is wanted, and this is a text", help);
                return None;
            }
            Some(Offered::Text(text(reader, source)))
        }
        toml::Value::Array(elements)
            if elements.iter().any(is_tagged) && matches!(kind, Kind::Texts | Kind::SomeOf(_)) =>
        {
            let texts = elements.iter().map(|element| element.as_str().map(|source| text(reader, source)));
            texts.collect::<Option<Vec<_>>>().map(Offered::Texts)
        }
        fixed => match typed(kind, fixed, &reader.scope) {
            Ok(value) => {
                if let Err(refusal) = check_value(kind, rules, &value)
                    && value != Value::Text(String::new())
                {
                    reader.add(codes::BAD_VALUE, span, refusal.reason, refusal.advice);
                }
                Some(Offered::Fixed(value))
            }
            Err(wanted) => {
                reader.add(codes::BAD_VALUE, span, wanted, "");
                None
            }
        },
    }
}

/// The presets, with their answers judged as far as they are fixed.
pub(super) fn presets(
    reader: &mut Reader<'_>,
    questions: &[Question],
    raw: BTreeMap<Placed, RawPreset>,
) -> BTreeMap<String, Preset> {
    let never = TooEarly { later: &[], derived: &[] };
    let mut presets = BTreeMap::new();
    for (name, preset) in raw {
        let mut answers = Vec::new();
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
            }
        }
        presets.insert(name.into_inner(), Preset { summary: preset.summary, answers });
    }
    presets
}
