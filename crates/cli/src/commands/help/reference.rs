//! Everything that the program knows of itself, as data: the reference is made of it.

use crate::args::Args;
use crate::args::help::GROUPS;
use crate::exit::Exit;
use clap::{Arg, ArgAction, Command, CommandFactory};
use serde_json::{Value as Json, json};
use tinmold_mold::{Form, codes};
use tinmold_notation::{
    Budget, Code, Element, Following, Scope, Setting, Severity, Type, Values, compile_expression, following,
};

/// What the examples of views and forms begin with.
const EXAMPLE: &str = "Gull Point 2";

/// Returns all of it.
pub fn as_json() -> Json {
    let mut program = Args::command();
    program.build();
    let groups = GROUPS.iter().map(|(group, names)| {
        let commands = names.iter().filter_map(|name| program.find_subcommand(name));
        json!({ "group": group, "commands": commands.map(|one| command(one, "tinmold")).collect::<Vec<_>>() })
    });
    let shared: Vec<Json> = program.get_arguments().map(argument).collect();
    json!({
        "version": env!("CARGO_PKG_VERSION"),
        "groups": groups.collect::<Vec<_>>(),
        "shared-options": shared,
        "exit-codes": Exit::ALL.iter().map(|exit| json!({ "code": *exit as u8, "means": exit.means() })).collect::<Vec<_>>(),
        "views": views(),
        "forms": forms(),
        "codes": all_codes(),
    })
}

fn command(command: &Command, before: &str) -> Json {
    let name = format!("{before} {}", command.get_name());
    let own = command.get_arguments().filter(|arg| !arg.is_global_set() && arg.get_id() != "help");
    let (options, positional): (Vec<&Arg>, Vec<&Arg>) = own.partition(|arg| !arg.is_positional());
    let text = |text: Option<&clap::builder::StyledStr>| text.map(ToString::to_string).unwrap_or_default();
    let usage = command.clone().render_usage().to_string();
    json!({
        "name": name,
        "about": text(command.get_about()),
        "usage": usage.trim_start_matches("Usage: "),
        "arguments": positional.into_iter().map(argument).collect::<Vec<_>>(),
        "options": options.into_iter().map(argument).collect::<Vec<_>>(),
        "examples": examples(&text(command.get_after_help())),
        "commands": command.get_subcommands().map(|inner| self::command(inner, &name)).collect::<Vec<_>>(),
    })
}

/// Reads the lines of the examples, each followed by what it does.
fn examples(text: &str) -> Vec<Json> {
    let text = anstream::adapter::strip_str(text).to_string();
    let lines: Vec<&str> = text.lines().skip(1).map(str::trim).collect();
    lines
        .chunks(2)
        .filter(|pair| pair.len() == 2)
        .map(|pair| json!({ "line": pair[0], "does": pair[1] }))
        .collect()
}

fn argument(arg: &Arg) -> Json {
    let takes_value = matches!(arg.get_action(), ArgAction::Set | ArgAction::Append);
    let values: Vec<Json> = arg
        .get_possible_values()
        .iter()
        .filter(|_| takes_value)
        .map(|value| json!({ "value": value.get_name(), "does": value.get_help().map(ToString::to_string) }))
        .collect();
    let names = arg.get_value_names().filter(|_| takes_value).unwrap_or_default();
    json!({
        "long": arg.get_long(),
        "short": arg.get_short(),
        "value": names.first().map(ToString::to_string),
        "does": arg.get_help().map(ToString::to_string),
        "required": arg.is_required_set(),
        "repeatable": matches!(arg.get_action(), ArgAction::Append),
        "values": values,
        "default": arg.get_default_values().first().filter(|_| takes_value).map(|value| value.to_string_lossy()),
    })
}

/// Lists the views, by the type that they follow; those of a text with what they make of an example.
fn views() -> Vec<Json> {
    let scope = Scope::new();
    let of = |on: &str, of: Type| {
        let all = following(&scope, of);
        all.into_iter()
            .map(|Following { name, gives }| {
                let example = if of == Type::Text { of_example(&name) } else { None };
                json!({ "on": on, "view": name, "gives": gives, "example": example })
            })
            .collect::<Vec<Json>>()
    };
    let types = [
        ("text", Type::Text),
        ("list", Type::List(Element::Text)),
        ("integer", Type::Integer),
        ("flag", Type::Flag),
    ];
    types.into_iter().flat_map(|(on, kind)| of(on, kind)).collect()
}

/// Returns what a view without arguments makes of the example, as a text.
fn of_example(view: &str) -> Option<String> {
    if view.contains('(') {
        return None;
    }
    let scope = Scope::new();
    let value = |source: &str| {
        let setting = Setting::default();
        let compiled = compile_expression("example", source, &scope, &setting, None);
        let value = compiled.program?.evaluate(&Values::new(&scope), &Budget::default()).ok()?;
        match value {
            tinmold_notation::Value::Text(text) => Some(text),
            tinmold_notation::Value::Integer(number) => Some(number.to_string()),
            tinmold_notation::Value::Flag(flag) => Some(flag.to_string()),
            _ => None,
        }
    };
    value(&format!("'{EXAMPLE}'.{view}"))
}

fn forms() -> Vec<Json> {
    Form::ALL
        .iter()
        .map(|form| json!({ "form": form.name(), "about": form.about().trim(), "example": form.bend(EXAMPLE) }))
        .collect()
}

fn all_codes() -> Vec<Json> {
    let mut all: Vec<&(Code, &str)> = Code::DESCRIBED.iter().chain(codes::DESCRIBED).collect();
    all.sort_by_key(|(code, _)| code.as_str());
    all.into_iter()
        .map(|(code, about)| {
            let severity = if code.severity() == Severity::Error { "error" } else { "warning" };
            json!({ "code": code.as_str(), "severity": severity, "about": about.trim() })
        })
        .collect()
}
