//! Every value, computed from what was given: one pass in the order of the questions.

use super::assign::{assign, assign_text};
use super::provenance::{AnswerSource, BuiltIns, Given, Offers};
use super::sources::parse_text;
use tinmold_mold::question::bent;
use tinmold_mold::{Kind, Mold, Offered, Question, Refusal, ResolveStep, check_value, typed};
use tinmold_notation::{Finding, Value, Values};

/// One question, resolved.
#[derive(Clone, Debug, PartialEq)]
pub struct ResolvedAnswer {
    /// Its value: what was given, else what is offered, else the empty value.
    pub value: Value,
    /// The source of the value.
    pub source: AnswerSource,
    /// Why the value is refused.
    pub refusal: Option<Refusal>,
    /// By option: true if it is offered.
    pub options: Vec<bool>,
}

impl ResolvedAnswer {
    /// Returns true if the question applies.
    #[must_use]
    pub fn is_visible(&self) -> bool {
        self.source != AnswerSource::NotAsked
    }
}

/// All questions, resolved.
#[derive(Clone, Debug)]
pub struct Resolution {
    /// By index of the question in the mold.
    pub questions: Vec<ResolvedAnswer>,
    /// The values of all names.
    pub values: Values,
}

/// Stands for a secret in everything that is shown.
const MASK: &str = "********";

/// Settles every question. Without `minted`, by index of the question, every secret is masked in the values,
/// also where another value is computed from it.
///
/// # Errors
/// A default, condition or derived value of the mold that cannot be computed from these answers.
pub(super) fn resolve_answers(
    mold: &Mold,
    given: &[Option<Given>],
    offers: &Offers,
    built_ins: &BuiltIns,
    minted: Option<&[String]>,
) -> Result<Resolution, Finding> {
    let mut values = Values::new(&mold.scope);
    built_ins.enter(mold, &mut values);
    if let Some(folder) = &offers.folder {
        assign_text(&mut values, &mold.scope, "project.dir", folder);
    }
    let nothing = ResolvedAnswer {
        value: Value::Flag(false),
        source: AnswerSource::NotAsked,
        refusal: None,
        options: Vec::new(),
    };
    let mut questions = vec![nothing; mold.questions.len()];
    // What follows from an answer need not hold for one that is refused: the refusal is what to say.
    let mut is_refused = false;
    for step in &mold.steps {
        match step {
            ResolveStep::Question(at) => {
                let question = &mold.questions[*at];
                let given = given.get(*at).and_then(Option::as_ref);
                let preset = preset(mold, *at, offers);
                let mut resolved = match resolve_one(mold, question, given, preset, offers, &values) {
                    Err(_) if is_refused => continue,
                    resolved => resolved?,
                };
                let entered = match (question.kind, minted) {
                    _ if !resolved.is_visible() => resolved.value.clone(),
                    (Kind::Minted { .. }, Some(minted)) => {
                        resolved.value = Value::Text(minted[*at].clone());
                        resolved.value.clone()
                    }
                    (Kind::Minted { length }, None) => Value::Text("*".repeat(length as usize)),
                    (_, None) if question.secret && resolved.value != empty_text() => {
                        Value::Text(MASK.to_owned())
                    }
                    _ => resolved.value.clone(),
                };
                is_refused |= resolved.refusal.is_some();
                enter(mold, &mut values, question, &entered);
                questions[*at] = resolved;
            }
            ResolveStep::Derive(at) => {
                let derived = &mold.derived[*at];
                let value = if derived.is_expression {
                    derived.snippet.evaluate(&mold.scope, &values)
                } else {
                    derived.snippet.render(&mold.scope, &values).map(Value::Text)
                };
                let value = match value {
                    Err(_) if is_refused => continue,
                    value => value?,
                };
                // Compiled against this scope, so the value is of the name's type.
                assign(&mut values, &mold.scope, derived.id, value);
            }
        }
    }
    Ok(Resolution { questions, values })
}

fn empty_text() -> Value {
    Value::Text(String::new())
}

/// Returns the preset's answer to the question at `at`.
fn preset<'a>(mold: &'a Mold, at: usize, offers: &'a Offers) -> Option<(&'a str, &'a Offered)> {
    let name = offers.preset.as_deref()?;
    let (_, answer) = mold.presets.get(name)?.answers.iter().find(|(question, _)| *question == at)?;
    Some((name, answer))
}

fn enter(mold: &Mold, values: &mut Values, question: &Question, value: &Value) {
    // A one-of without an answer holds its first option until it has one, if its type has no empty
    // value.
    let value = match (value, question.kind) {
        (Value::Option(of, None), Kind::OneOf(_)) if !value.fits(question.value_type()) => {
            Value::Option(*of, Some(0))
        }
        (value, _) => value.clone(),
    };
    assign(values, &mold.scope, question.id, value);
}

fn resolve_one(
    mold: &Mold,
    question: &Question,
    given: Option<&Given>,
    preset: Option<(&str, &Offered)>,
    offers: &Offers,
    values: &Values,
) -> Result<ResolvedAnswer, Finding> {
    let mut options = Vec::with_capacity(question.options.len());
    for option in &question.options {
        options.push(match &option.when {
            Some(when) => when.holds(&mold.scope, values)?,
            None => true,
        });
    }
    let asked = match &question.when {
        Some(when) => when.holds(&mold.scope, values)?,
        None => true,
    };
    let resolved = |value, source, refusal| ResolvedAnswer { value, source, refusal, options: Vec::new() };
    let empty = || Value::empty(question.kind.value_type(true));
    let mut result = if !asked {
        let hidden = match &question.hidden {
            Some(hidden) => rendered(mold, question, hidden, values)?.unwrap_or_else(|_| empty()),
            None => empty(),
        };
        resolved(hidden, AnswerSource::NotAsked, None)
    } else if let Kind::Minted { .. } = question.kind {
        resolved(Value::Text(String::new()), AnswerSource::Minted, None)
    } else if let Some(given) = given {
        let refusal = judge(question, &given.value, &options);
        resolved(given.value.clone(), given.source.clone(), refusal)
    } else if let Some((name, answer)) = preset {
        let source = AnswerSource::Preset(name.to_owned());
        match rendered(mold, question, answer, values)? {
            Ok(value) => {
                let refusal = judge(question, &value, &options);
                resolved(value, source, refusal)
            }
            Err(refusal) => resolved(empty(), source, Some(refusal)),
        }
    } else if let Some((_, refusal)) = offers.anew.iter().find(|(key, _)| *key == question.key) {
        resolved(empty(), AnswerSource::Casting, Some(refusal.clone()))
    } else {
        offer(mold, question, offers, values, &options)?
    };
    result.options = options;
    Ok(result)
}

/// Judges a value by the question's rules and the offered options; `None` if it is accepted.
#[must_use]
pub fn judge(question: &Question, value: &Value, offered: &[bool]) -> Option<Refusal> {
    if let Err(refusal) = check_value(question.kind, &question.rules, value) {
        return Some(refusal);
    }
    let picked: Vec<u16> = match value {
        Value::Option(_, at) => at.iter().copied().collect(),
        Value::List(values) => {
            values.iter().filter_map(|v| if let Value::Option(_, at) = v { *at } else { None }).collect()
        }
        _ => return None,
    };
    let name = |at: u16| question.options.get(at as usize).map_or("", |option| option.value.as_str());
    for at in &picked {
        if offered.get(*at as usize) == Some(&false) {
            let when = question.options[*at as usize].when.as_ref();
            let why = when.map_or_else(String::new, |when| format!(": `{}` does not hold", when.text()));
            let reason = format!("the option `{}` does not go with the other answers{why}", name(*at));
            return Some(Refusal::new(reason, "choose another one, or change what it depends on"));
        }
        let Some(option) = question.options.get(*at as usize) else { continue };
        if let Some(lacks) = option.requires.iter().find(|other| !picked.contains(other)) {
            let reason = format!("the option `{}` requires `{}`", name(*at), name(*lacks));
            return Some(Refusal::new(reason, format!("add `{}`", name(*lacks))));
        }
        if let Some(other) = option.excludes.iter().find(|other| picked.contains(other)) {
            let reason = format!("the options `{}` and `{}` exclude each other", name(*at), name(*other));
            return Some(Refusal::new(reason, "leave one of them out"));
        }
    }
    None
}

/// Returns the offered value: that of the first source with a legal one, else that of the last
/// source with its refusal.
fn offer(
    mold: &Mold,
    question: &Question,
    offers: &Offers,
    values: &Values,
    options: &[bool],
) -> Result<ResolvedAnswer, Finding> {
    let found = offer_of_sources(mold, question, offers, values, options)?;
    if !question.from_folder {
        return Ok(found);
    }
    let named = |source, name: &str| {
        let other = if let Value::Text(text) = &found.value { Some(text.as_str()) } else { None };
        let name = bent(question.rules.form, name, other)?;
        let value = Value::Text(name);
        let fits = judge(question, &value, options).is_none();
        fits.then(|| ResolvedAnswer { value, source, refusal: None, options: Vec::new() })
    };
    if let Some(folder) = &offers.folder
        && let Some(answer) = named(AnswerSource::Folder, folder)
    {
        return Ok(answer);
    }
    // The owner is the same as last time, the name is not.
    if let (AnswerSource::Last | AnswerSource::Own, Some(form), Some(default)) =
        (&found.source, question.rules.form, &question.default)
        && let Ok(Value::Text(default)) = rendered(mold, question, default, values)?
        && let Some((_, name)) = form.apart(&default)
        && let Some(answer) = named(found.source.clone(), name)
    {
        return Ok(answer);
    }
    Ok(found)
}

/// Returns what is offered where no folder was named.
fn offer_of_sources(
    mold: &Mold,
    question: &Question,
    offers: &Offers,
    values: &Values,
    options: &[bool],
) -> Result<ResolvedAnswer, Finding> {
    let resolved =
        |value: Value, source, refusal| ResolvedAnswer { value, source, refusal, options: Vec::new() };
    let sources = [
        (&offers.casting, AnswerSource::Casting),
        (&offers.last, AnswerSource::Last),
        (&offers.own, AnswerSource::Own),
    ];
    for (offered, source) in sources {
        if let Some((_, value)) = offered.iter().find(|(key, _)| *key == question.key)
            && judge(question, value, options).is_none()
        {
            return Ok(resolved(value.clone(), source, None));
        }
    }
    if let Some((_, version)) =
        offers.tools.iter().find(|(tool, _)| Some(tool) == question.from_tool.as_ref())
        && let Some((_, value)) = newest(question, *version, options)
    {
        return Ok(resolved(value, AnswerSource::Machine, None));
    }
    let empty = Value::empty(question.kind.value_type(true));
    let default = match &question.default {
        Some(default) => Some(rendered(mold, question, default, values)?),
        None => None,
    };
    Ok(match default {
        Some(Ok(value)) => {
            let value = without_unoffered(question, value, options);
            let refusal = judge(question, &value, options);
            resolved(value, AnswerSource::Default, refusal)
        }
        Some(Err(refusal)) => resolved(empty, AnswerSource::Default, Some(refusal)),
        None => {
            let needs_none = match question.kind {
                Kind::Text => question.rules.optional || question.rules.form.is_none(),
                Kind::Texts | Kind::SomeOf(_) | Kind::Flag => true,
                _ => false,
            };
            if needs_none && judge(question, &empty, options).is_none() {
                resolved(empty, AnswerSource::Default, None)
            } else {
                let refusal = Refusal::new("it has no default", "");
                resolved(empty, AnswerSource::Nobody, Some(refusal))
            }
        }
    })
}

/// Returns the greatest offered option that is a version up to this one.
fn newest(question: &Question, version: u64, offered: &[bool]) -> Option<(u64, Value)> {
    let of = question.kind.choices()?;
    let options =
        question.options.iter().zip(0..).filter(|(_, at)| offered.get(usize::from(*at)) != Some(&false));
    options
        .filter_map(|(option, at)| Some((option.value.parse().ok()?, Value::Option(of, Some(at)))))
        .filter(|(number, _)| *number <= version)
        .max_by_key(|(number, _)| *number)
}

/// Returns a default of several options leaves out those that are not offered.
fn without_unoffered(question: &Question, value: Value, offered: &[bool]) -> Value {
    match (question.kind, value) {
        (Kind::SomeOf(_), Value::List(values)) => Value::List(
            values
                .into_iter()
                .filter(|value| match value {
                    Value::Option(_, Some(at)) => offered.get(*at as usize) == Some(&true),
                    _ => true,
                })
                .collect(),
        ),
        (_, value) => value,
    }
}

/// Returns an offered value with its texts rendered, or why what came out is no answer.
fn rendered(
    mold: &Mold,
    question: &Question,
    offered: &Offered,
    values: &Values,
) -> Result<Result<Value, Refusal>, Finding> {
    Ok(match offered {
        Offered::Fixed(value) => Ok(value.clone()),
        Offered::Text(snippet) => {
            let text = snippet.render(&mold.scope, values)?;
            let bent = question.rules.form.filter(|form| form.check(&text).is_err());
            let text = match bent.and_then(|form| form.bend(&text)) {
                Some(bent) => bent,
                None => text,
            };
            parse_text(question, &text, &mold.scope)
        }
        Offered::Texts(snippets) => {
            let mut texts = Vec::with_capacity(snippets.len());
            for snippet in snippets {
                let text = snippet.render(&mold.scope, values)?;
                if !text.is_empty() {
                    texts.push(toml::Value::String(text));
                }
            }
            typed(question.kind, &toml::Value::Array(texts), &mold.scope)
        }
    })
}
