//! The crate as a library: scopes, values, options, marks, budgets, and what can follow.
#![allow(clippy::unwrap_used)]

mod common;
use common::World;
use std::thread;
use tinmold_notation::{
    Budget, Choices, Code, Element, FieldError, FieldValue, Fragments, NameError, Position, Renderer, Scope,
    Setting, Severity, Span, Syntax, Traits, Type, Value, Values, compile, compile_expression, did_you_mean,
    following, nearest, origin,
};

#[test]
fn names_are_legal_and_new() {
    let mut scope = Scope::with_built_ins();
    assert!(scope.add("pier", Type::Text).is_ok());
    let cases = [
        ("pier", NameError::Taken),
        ("", NameError::NoName),
        ("a-b", NameError::NoName),
        ("1a", NameError::NoName),
        ("gr\u{f6}\u{df}e", NameError::NoName),
        ("match", NameError::Reserved),
        ("today", NameError::Reserved),
        ("project", NameError::Reserved),
    ];
    for (name, error) in cases {
        assert_eq!(scope.add(name, Type::Flag), Err(error), "{name}");
        assert!(!error.to_string().is_empty());
    }
    let id = scope.find("pier").unwrap();
    assert_eq!(scope.name(id).name, "pier");
    assert_eq!(scope.find("project.dir").map(|id| scope.name(id).traits.free), Some(true));
    assert!(scope.name(scope.find("system").unwrap()).barred.is_some());
    scope.unbar("system");
    let setting = Setting::default();
    assert!(compile_expression("e", "system", &scope, &setting, None).findings.is_empty());
}

#[test]
fn options_have_fields_of_one_type() {
    let mut web = Choices::new("web");
    web.add("a", "A");
    web.add("b", "B");
    web.set_field(0, "port", FieldValue::Integer(1)).unwrap();
    let cases = [
        ("port", FieldValue::Text("x".into()), FieldError::TwoTypes),
        ("upper", FieldValue::Flag(true), FieldError::NameOfView),
        ("value", FieldValue::Flag(true), FieldError::NameOfView),
        ("a b", FieldValue::Flag(true), FieldError::NoName),
    ];
    for (name, value, error) in cases {
        assert_eq!(web.set_field(1, name, value), Err(error.clone()));
        assert!(!error.to_string().is_empty());
    }
    assert_eq!(web.fields().collect::<Vec<_>>(), [("port", Type::Integer)]);
    assert_eq!((web.position("b"), web.position("c")), (Some(1), None));
}

#[test]
fn values_are_of_the_types_of_their_names() {
    let world = World::new();
    let mut values = Values::new(&world.scope);
    let id = |name: &str| world.scope.find(name).unwrap();
    let Type::Option { of: web, .. } = world.scope.name(id("web")).of else {
        unreachable!("web is a one-of")
    };
    let Type::List(Element::Option(extras)) = world.scope.name(id("extras")).of else {
        unreachable!("extras is a some-of")
    };
    let text = || Value::Text("x".into());
    let cases = [
        ("pier", text(), true),
        ("pier", Value::Integer(1), false),
        ("berths", Value::Integer(1), true),
        ("night", Value::Flag(true), true),
        ("night", text(), false),
        ("web", Value::Option(web, Some(0)), true),
        ("web", Value::Option(web, None), false),
        ("web", Value::Option(extras, Some(0)), false),
        ("unasked", Value::Option(web, None), true),
        ("piers", Value::List(vec![text(), text()]), true),
        ("piers", Value::List(vec![text(), Value::Integer(1)]), false),
        ("piers", Value::List(vec![Value::List(vec![])]), false),
        ("extras", Value::List(vec![Value::Option(extras, Some(1))]), true),
        ("extras", Value::List(vec![Value::Option(web, Some(1))]), false),
    ];
    for (name, value, fits) in cases {
        let set = values.set(&world.scope, id(name), value.clone());
        assert_eq!(set.is_ok(), fits, "{name} {value:?}");
        if let Err(error) = set {
            assert!(error.to_string().contains(name));
        } else {
            assert_eq!(values.get(id(name)), Some(&value));
        }
    }
    assert!(values.set_text(&world.scope, "berths", "x").is_err());
    assert!(values.set_text(&world.scope, "nobody", "x").is_ok());
    for name in world.scope.names() {
        assert!(
            Value::empty(name.of).fits(name.of) || matches!(name.of, Type::Option { or_none: false, .. })
        );
        assert!(!world.scope.describe(name.of).is_empty());
    }
}

#[test]
fn a_program_renders_in_many_threads_at_once() {
    let world = World::new();
    let setting = Setting::default();
    let source = "{= for p, i in piers =}{= i =}{= p.kebab =}{= between ',' =}{= end =}";
    let program = compile("a", source, &world.scope, &setting).program.unwrap();
    let budget = Budget::default();
    thread::scope(|scope| {
        let render = || program.render_text(&world.values, &budget).unwrap();
        let all: Vec<_> =
            (0..8).map(|_| scope.spawn(move || (0..50).map(|_| render()).collect::<Vec<_>>())).collect();
        for thread in all {
            for text in thread.join().unwrap() {
                assert_eq!(text, "0gull-point,1heron-stairs,2osier-island");
            }
        }
    });
}

#[test]
fn a_budget_is_spent_once() {
    let world = World::new();
    let setting = Setting::default();
    let source = "{= pier.pad(1000) =}";
    let program = compile("a", source, &world.scope, &setting).program.unwrap();
    let budget = Budget::new(10_000);
    let mut out = Vec::new();
    let mut rendered = 0;
    while program.render(&world.values, &budget, &mut out).is_ok() {
        rendered += 1;
        assert!(rendered < 20, "the budget never ends");
    }
    assert_eq!(out.len(), rendered * 1000);
    assert!((3..=9).contains(&rendered), "{rendered}");
    assert_eq!(budget.limit(), 10_000);

    // A renderer returns the unused part of a small budget.
    let budget = Budget::new(100_000);
    let (mut one, mut other) = (
        Renderer::new(&world.scope, &world.values, &budget, 1000),
        Renderer::new(&world.scope, &world.values, &budget, 1000),
    );
    let text = "x".repeat(900);
    for _ in 0..50 {
        one.render("a", &text, &setting, &mut out).unwrap();
        other.render("b", &text, &setting, &mut out).unwrap();
    }
    let more = (0..).take_while(|_| one.render("a", &text, &setting, &mut out).is_ok()).count();
    assert!((8..=11).contains(&more), "{more} more of 900 were paid");
    drop((one, other));
    let rest = 100_000 - (100 + more as u64) * 900;
    let mut third = Renderer::new(&world.scope, &world.values, &budget, 1000);
    third.render("c", &text[..rest as usize], &setting, &mut out).unwrap();
    assert!(third.render("c", "x", &setting, &mut out).is_err());
}

#[test]
fn what_is_used_and_placed_is_told() {
    let world = World::new();
    let names = |source: &str| {
        world.compiled(source, |compiled| {
            let used = compiled.used.iter().map(|id| world.scope.name(*id).name.clone()).collect::<Vec<_>>();
            (used.join(" "), compiled.placed.join(" "), compiled.traits)
        })
    };
    assert_eq!(names("{= if night =}{= pier =}{= end =}{= mold.name =}").0, "mold.name pier night");
    assert_eq!(names("{= place 'nested' =}").0, "piers");
    assert_eq!(names("{= place 'nested' =}").1, "nested calls");
    assert_eq!(names("{= place 'head' =}").0, "mold.name");
    assert_eq!(names("plain").0, "");
    assert!(names("{= note_text =}").2.free);
    assert!(!names("{= note_text.json =}").2.free);
    assert_eq!(names("{= pier =}").2, Traits::default());
}

#[test]
fn fragments_take_line_ends_and_types_of_where_they_are_placed() {
    let mut world = World::new();
    world.fragments.add("crlf", "\u{feff}a\r\nb {= x =}\r\n");
    world.fragments.add("lf", "a\nb {= x =}\n");
    let cases = [
        ("1\n{= place 'crlf' given x = 1 =}\n2\n", "1\na\nb 1\n2\n"),
        ("1\r\n{= place 'lf' given x = 'y' =}\r\n2\r\n", "1\r\na\r\nb y\r\n2\r\n"),
        ("{= place 'lf' given x = 1 =}|{= place 'lf' given x = night =}", "a\nb 1|a\nb true"),
        ("  - {= place 'lf' given x = web =};", "  - a\nb flask;"),
    ];
    for (source, expected) in cases {
        assert_eq!(world.render(source).as_deref(), Ok(expected), "{source:?}");
    }
    let found = world.render("{= place 'lf' given x = piers =}").unwrap_err();
    assert_eq!((found[0].code, &*found[0].file), (Code::ListPutIn, "fragments/lf"));
    let mut fragments = Fragments::default();
    fragments.add("b", "1");
    fragments.add("a", "2");
    assert_eq!(fragments.names().collect::<Vec<_>>(), ["a", "b"]);
    assert_eq!(fragments.get("b"), Some(("b", "1")));
}

#[test]
fn places_are_counted_as_people_do() {
    let text = "\u{feff}a\u{e9}b\r\n\u{1f6a2}c\n";
    let at = |byte: usize| {
        let position = Position::of(text, byte);
        (position.line, position.column)
    };
    assert_eq!(at(0), (1, 1));
    assert_eq!(at(3), (1, 1));
    assert_eq!(at(6), (1, 3));
    assert_eq!(at(9), (2, 1));
    assert_eq!(at(10), (2, 1));
    assert_eq!(at(13), (2, 2));
    assert_eq!(at(999), (3, 1));
    assert_eq!(Span::new(3, 6).of(text), "a\u{e9}");
    assert_eq!(Span::new(4, 5).of(text), "");
    assert_eq!(Span::new(2, 4).to(Span::new(7, 9)), Span::new(2, 9));
}

#[test]
fn the_nearest_name_is_near() {
    let known = ["pier", "piers", "berths", "night"];
    let cases = [
        ("peir", Some("pier")),
        ("PIER", Some("pier")),
        ("berth", Some("berths")),
        ("nihgt", Some("night")),
        ("x", None),
        ("gangway", None),
        ("", None),
    ];
    for (word, expected) in cases {
        assert_eq!(nearest(word, known), expected, "{word}");
    }
    assert_eq!(nearest(&"a".repeat(100_000), known), None);
    assert_eq!(did_you_mean("peir", known, "no"), "did you mean `pier`?");
    assert_eq!(did_you_mean("x", known, "no"), "no");
}

#[test]
fn every_byte_of_an_output_has_its_origin() {
    let mut world = World::new();
    // The file, the source, a part of the output, and its origin.
    let cases = [
        ("a.txt", "x {= berths =} y", "4", "berths"),
        ("a.txt", "x {= berths =} y", "y", "y"),
        ("a.txt", "# {= if night =}\nfull: {= pier.upper =}\n# {= end =}\nend", "POINT", "pier.upper"),
        ("a.txt", "# {= for p in piers =}\ncall {= p =};\n# {= end =}\nlast", "Osier", "p"),
        ("a.txt", "# {= for p in piers =}\ncall {= p =};\n# {= end =}\nlast", "last", "l"),
        ("a.txt", "{= for e in extras =}<{= e.label =}|{= end =}", "compose", "e.label"),
        ("a.txt", "  {= note_text =}\n  after", "c", "note_text"),
        ("a.txt", "a\n  {= place \"nested\" =}\nz", "Heron", "{= place \"nested\" =}"),
        ("a.txt", "a\n  {= place \"nested\" =}\nz", "z", "z"),
        ("a.txt", "\u{feff}é{= pier =}ü", "ü", "ü"),
        ("a.json", "[1,{= if not night =}2,{= end =}\n], {= berths =}", "4", "berths"),
        ("a.json", "{\"a\": [1, 2, ], \"b\": [3, ],\n}", "3", "3"),
    ];
    for (file, source, piece, expected) in cases {
        world.file = file.into();
        let output = world.render(source).unwrap();
        let at = output.find(piece).unwrap_or_else(|| unreachable!("{piece:?} is in {output:?}"));
        let setting =
            Setting { fragments: &world.fragments, syntax: Syntax::of_path(file), ..Setting::default() };
        let span = origin(file, source, &world.scope, &setting, &world.values, at).unwrap();
        let start = span.start as usize;
        let found = if span.end - span.start > 1 { span.of(source) } else { &source[start..] };
        assert!(found.starts_with(expected), "{source:?} {piece:?}: {found:?}");
        for at in 0..output.len() {
            let span = origin(file, source, &world.scope, &setting, &world.values, at).unwrap();
            assert!(!span.of(source).is_empty(), "{source:?} {at}");
        }
        let past = origin(file, source, &world.scope, &setting, &world.values, output.len() + 9);
        assert!(past.is_some_and(|span| span.end as usize <= source.len()), "{source:?}");
    }
}

#[test]
fn whatever_follows_a_value_compiles() {
    let world = World::new();
    let setting = Setting::default();
    for name in ["pier", "berths", "night", "web", "piers", "extras", "numbers"] {
        let of = world.scope.name(world.scope.find(name).unwrap()).of;
        let all = following(&world.scope, of);
        assert!(!all.is_empty());
        for one in all {
            let call =
                one.name.replace("option of `extras`", "'ci'").replace("text", "'a'").replace("integer", "1");
            // The view `text` is no argument.
            let call = if one.name == "text" { one.name.clone() } else { call };
            let source = format!("{name}.{call}");
            let compiled = compile_expression("e", &source, &world.scope, &setting, None);
            assert_eq!(compiled.findings, [], "{source}");
            assert_eq!(world.scope.describe(compiled.program.unwrap().value_type()), one.gives, "{source}");
        }
    }
    assert!(following(&world.scope, Type::Unknown).is_empty());
}

#[test]
fn codes_and_kinds_of_files_are_what_they_are_called() {
    let mut seen: Vec<&str> = Code::ALL.iter().map(|code| code.as_str()).collect();
    seen.sort_unstable();
    seen.dedup();
    assert_eq!(seen.len(), Code::ALL.len());
    for code in Code::ALL {
        assert!(code.as_str().bytes().all(|b| b.is_ascii_lowercase() || b == b'-'), "{code}");
    }
    let warnings = Code::ALL.iter().filter(|code| code.severity() == Severity::Warning).count();
    assert_eq!(warnings, 3);
    for (path, syntax) in [
        ("a/b.json", Syntax::Json),
        (".vscode/x.code-workspace", Syntax::Json),
        ("{= name =}.toml", Syntax::Toml),
        ("a.yml", Syntax::Yaml),
        ("pom.xml", Syntax::Xml),
        ("x.sh", Syntax::Shell),
        ("make.cmd", Syntax::Batch),
        ("lib/GNUmakefile", Syntax::Make),
        ("src/{= module =}/a.py", Syntax::Python),
        ("a.tsx", Syntax::JavaScript),
        (".env", Syntax::Env),
        (".env.sample", Syntax::Env),
        (".editorconfig", Syntax::Ini),
        ("Containerfile.dev", Syntax::Container),
        ("json", Syntax::Plain),
        ("a.json/b", Syntax::Plain),
        ("", Syntax::Plain),
    ] {
        assert_eq!(Syntax::of_path(path), syntax, "{path}");
    }
}
