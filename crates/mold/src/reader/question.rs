//! Reads `[[question]]`: from the manifest's shape to a typed question, with its rules checked
//! against its kind.

use super::context::ManifestReader;
use super::earlier::earlier;
use crate::codes;
use crate::manifest::{Placed, RawKind, RawOption, RawQuestion, RawValue};
use crate::question::{Form, Kind, Offered, OptionInfo, Question, Rules, check_value, typed, with_required};
use crate::snippet::{Snippet, has_tag};
use std::ops::Range;
use tinmold_notation::{
    Choices, ChoicesId, Code, FieldValue, Finding, Span, Traits, Type, Value, did_you_mean,
};

/// Reads one question. `later` are the keys of this question and those after it, `derived` the
/// derived values that cannot be computed yet.
pub(super) fn read(
    reader: &mut ManifestReader,
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
    // What the mold answers for a layer is never asked.
    let when = match &raw.settled {
        Some(_) => Some(Snippet::new("false", 0..0, &reader.file, "")),
        None => raw.when.as_ref().map(|when| condition(reader, when, &early)),
    };
    let raw_kind = *raw.kind.get_ref();
    let (choices, options) = read_options(reader, &raw, raw_kind, &early);
    let kind = kind(reader, &raw, choices);
    let rules = rules(reader, &raw, kind);
    let read = |reader: &mut ManifestReader, value: &Option<toml::Spanned<RawValue>>| {
        value.as_ref().and_then(|value| offered(reader, kind, &rules, value, &early))
    };
    let default = read(reader, &raw.default);
    let hidden = match &raw.settled {
        Some(_) => {
            reader.enter(0);
            let hidden = read(reader, &raw.settled);
            reader.enter(raw.origin);
            hidden
        }
        None => read(reader, &raw.hidden),
    };
    let example = match read(reader, &raw.example) {
        Some(Offered::Fixed(value)) => Some(value),
        Some(_) => {
            let span = raw.example.as_ref().map_or(0..0, toml::Spanned::span);
            let help = "write the answer as a person would";
            reader.add(codes::WRONG_RULE, span, "an example is not rendered", help);
            None
        }
        None => None,
    };
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
    if raw.secret && kind != Kind::Text {
        let help = "a minted value is a secret by itself; no other kind can be one";
        reader.add(codes::WRONG_RULE, raw.key.span(), "`secret` is for texts", help);
    }
    if let Some(tool) = &raw.from_tool {
        let is_number = |option: &OptionInfo| option.value.parse::<u64>().is_ok();
        if !matches!(kind, Kind::OneOf(_)) || !options.iter().all(is_number) {
            let help = "its options are the tool's main versions, as in `value = \"21\"`";
            reader.add(codes::WRONG_RULE, tool.span(), "no version of a tool can be its answer", help);
        }
    }
    for value in raw.default.iter().chain(&raw.hidden).filter(|_| raw.secret) {
        let help = "everyone can read the mold; whoever casts it gives the secret";
        reader.add(codes::WRONG_RULE, value.span(), "a secret has no value in the mold", help);
    }
    let lines = free && rules.form.is_none();
    let traits = Traits { minted: minted || raw.secret, free, lines, path, ..Traits::default() };
    reader.scope.set_traits(id, traits);
    if raw.ask.is_none() && !minted {
        reader.add(codes::WRONG_SHAPE, raw.key.span(), "the key `ask` is missing here", "say what is asked");
    }
    Some(Question {
        ask: raw.ask.map_or_else(|| key.clone(), toml::Spanned::into_inner),
        help: raw.help.map(toml::Spanned::into_inner),
        group: raw.group.map(toml::Spanned::into_inner),
        kind,
        rules,
        options,
        when,
        default,
        hidden,
        example,
        from_folder: raw.from_folder,
        from_tool: raw.from_tool.map(toml::Spanned::into_inner),
        detail: raw.detail,
        secret: raw.secret,
        from_casting: false,
        settled: raw.settled.is_some(),
        file: std::sync::Arc::clone(&reader.file),
        id,
        was: raw.was.iter().map(|was| was.get_ref().clone()).collect(),
        span: span_of(&span),
        default_span: raw.default.as_ref().map_or_else(Span::default, |value| span_of(&value.span())),
        hidden_span: raw.hidden.as_ref().map_or_else(Span::default, |value| span_of(&value.span())),
        key,
    })
}

pub(super) fn span_of(range: &Range<usize>) -> Span {
    Span::new(range.start, range.end)
}

/// Names that a default or `when` may not use yet.
pub(super) struct TooEarly<'a> {
    pub(super) later: &'a [String],
    pub(super) derived: &'a [String],
}

impl TooEarly<'_> {
    /// Says of an unknown name that it is only unknown yet.
    fn explain(&self, findings: &mut [Finding]) {
        for finding in findings.iter_mut().filter(|finding| finding.code == Code::UnknownName) {
            let Some(name) = finding.subject.as_deref() else { continue };
            if self.later.iter().any(|later| later == name) {
                finding.code = codes::USED_TOO_EARLY;
                finding.message = if self.later.first().is_some_and(|own| own == name) {
                    format!("`{name}` is this question itself")
                } else {
                    format!("`{name}` is asked later")
                };
                finding.help = "defaults and `when` see earlier questions: change their order".into();
            } else if self.derived.iter().any(|derived| derived == name) {
                finding.code = codes::USED_TOO_EARLY;
                finding.message = format!("`{name}` is computed from what is asked later");
                finding.help =
                    "defaults and `when` see derived values that need earlier questions only".into();
            }
        }
    }
}

fn condition(reader: &mut ManifestReader, text: &Placed, early: &TooEarly<'_>) -> Snippet {
    let snippet = reader.snippet(text);
    let mut findings = snippet.with_expression(&reader.scope, Some(Type::Flag), |compiled| compiled.findings);
    early.explain(&mut findings);
    reader.findings.extend(findings);
    snippet
}

fn kind(reader: &mut ManifestReader, raw: &RawQuestion, choices: Option<ChoicesId>) -> Kind {
    let kind = match (raw.kind.get_ref(), choices) {
        (RawKind::Text, _) => Kind::Text,
        (RawKind::Texts, _) => Kind::Texts,
        (RawKind::Flag, _) => Kind::Flag,
        (RawKind::Integer, _) => Kind::Integer,
        (RawKind::OneOf, Some(of)) => Kind::OneOf(of),
        (RawKind::SomeOf, Some(of)) => Kind::SomeOf(of),
        (RawKind::Minted, _) => {
            let length =
                raw.length.as_ref().map_or(32, |length| u16::try_from(*length.get_ref()).unwrap_or(0));
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
    reader: &mut ManifestReader,
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
        let label = option.label.as_ref().map_or(value, |label| label.get_ref()).clone();
        choices.add(value, &label);
        read_fields(reader, &mut choices, at, option);
        let when = option.when.as_ref().map(|when| condition(reader, when, early));
        options.push(OptionInfo {
            value: value.clone(),
            label,
            note: option.note.as_ref().map(|note| note.get_ref().clone()),
            more: option.more.as_ref().map(|more| more.get_ref().clone()),
            when,
            group: option.group.as_ref().map(|group| group.get_ref().clone()),
            requires: named(reader, raw, &option.requires),
            excludes: named(reader, raw, &option.excludes),
            was: earlier(reader, &option.was, |was| {
                let is_value = raw.option.iter().any(|other| other.value.get_ref() == was);
                is_value.then(|| "it is the value of an option of this version".to_owned())
            }),
            span: span_of(&option.value.span()),
        });
        for was in &option.was {
            let twice = |other: &RawOption| other.was.iter().any(|it| it.get_ref() == was.get_ref());
            if raw.option[..at].iter().any(twice) {
                let help = "recast could not tell which of them it became";
                reader.add(codes::BAD_WAS, was.span(), "another option was called this too", help);
            }
        }
    }
    requirements(reader, raw, &options);
    (Some(reader.scope.add_choices(choices)), options)
}

fn read_fields(reader: &mut ManifestReader, choices: &mut Choices, at: usize, option: &RawOption) {
    for (name, value) in &option.with {
        let field = match value.get_ref() {
            RawValue::Text(text) => FieldValue::Text(text.clone()),
            RawValue::Integer(number) => FieldValue::Integer(*number),
            RawValue::Flag(flag) => FieldValue::Flag(*flag),
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

/// Returns the positions of the options with these values.
fn named(reader: &mut ManifestReader, raw: &RawQuestion, values: &[Placed]) -> Vec<u16> {
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

fn is_empty_text(value: Option<&toml::Spanned<RawValue>>) -> bool {
    matches!(value.map(toml::Spanned::get_ref), Some(RawValue::Text(text)) if text.is_empty())
}

fn rules(reader: &mut ManifestReader, raw: &RawQuestion, kind: Kind) -> Rules {
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
            reader.add(codes::UNKNOWN_FORM, form.span(), format!("unknown form `{}`", form.get_ref()), help);
        }
        found
    });
    let pattern = raw
        .pattern
        .as_ref()
        .and_then(|pattern| reader.regex(&format!("^(?:{})$", pattern.get_ref()), pattern.span()));
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
        // Where the default is empty, an answer may be.
        optional: raw.optional || is_empty_text(raw.default.as_ref()),
    }
}

/// Returns a default or hidden value. A constant is checked at once; a rendered one when its answers are
/// known.
pub(super) fn offered(
    reader: &mut ManifestReader,
    kind: Kind,
    rules: &Rules,
    value: &toml::Spanned<RawValue>,
    early: &TooEarly<'_>,
) -> Option<Offered> {
    let span = value.span();
    if matches!(kind, Kind::Minted { .. }) {
        let help = "it is made anew for every project";
        reader.add(codes::WRONG_RULE, span, "a minted value has no default", help);
        return None;
    }
    let is_tagged = |value: &RawValue| value.as_text().is_some_and(has_tag);
    let is_list = matches!(kind, Kind::Texts | Kind::SomeOf(_));
    let mut text = |source: &str, span: Range<usize>| {
        let snippet = Snippet::new(source, span, &reader.file, &reader.source);
        let mut findings = snippet.with_text(&reader.scope, false, |compiled| compiled.findings);
        early.explain(&mut findings);
        reader.findings.extend(findings);
        snippet
    };
    match value.get_ref() {
        RawValue::Text(_) if is_tagged(value.get_ref()) && is_list => {
            reader.add(codes::BAD_VALUE, span, "this must be a list, and is a text", "write a list");
            None
        }
        RawValue::Text(source) if is_tagged(value.get_ref()) => Some(Offered::Text(text(source, span))),
        RawValue::List(elements) if is_list && elements.iter().any(|e| is_tagged(e.get_ref())) => {
            let texts = elements
                .iter()
                .map(|element| element.get_ref().as_text().map(|source| text(source, element.span())));
            texts.collect::<Option<Vec<_>>>().map(Offered::Texts)
        }
        fixed => match typed(kind, &fixed.to_toml(), &reader.scope) {
            Ok(value) => {
                if let Err(refusal) = check_value(kind, rules, &value)
                    && value != Value::Text(String::new())
                {
                    reader.add(codes::BAD_VALUE, span, refusal.reason, refusal.advice);
                }
                Some(Offered::Fixed(value))
            }
            Err(refusal) => {
                reader.add(codes::BAD_VALUE, span, refusal.reason, refusal.advice);
                None
            }
        },
    }
}

/// The requirements of an option must not lead back to it, nor to an option that one on the way
/// excludes.
fn requirements(reader: &mut ManifestReader, raw: &RawQuestion, options: &[OptionInfo]) {
    for (at, option) in options.iter().enumerate() {
        let all = with_required(options, &option.requires);
        let span = raw.option[at].value.span();
        if all.contains(&(at as u16)) {
            let message = format!("the option `{}` requires itself in a circle", option.value);
            reader.add(codes::BAD_REQUIRES, span, message, "leave one `requires` out");
            continue;
        }
        let together = || all.iter().copied().chain([at as u16]);
        let conflict = together().find_map(|a| {
            let excludes = &options.get(a as usize)?.excludes;
            together().find(|b| excludes.contains(b)).map(|b| (a, b))
        });
        if let Some((a, b)) = conflict {
            let name = |at: u16| options.get(at as usize).map_or("", |option| option.value.as_str());
            let message = format!(
                "the option `{}` can never be ticked: `{}` excludes `{}`, and both would be needed",
                option.value,
                name(a),
                name(b)
            );
            reader.add(codes::BAD_REQUIRES, span, message, "leave `requires` or `excludes` out");
        }
    }
}
