//! Any text at all: a result or findings, never a panic, a hang or wrong output.

#![allow(clippy::unwrap_used)]

mod common;
use common::World;
use proptest::prelude::*;
use tinmold_notation::{Budget, Scope, Setting, Type, Value, Values, compile, compile_expression};

#[test]
fn nesting_without_end_is_refused() {
    let world = World::new();
    let deep = 100_000;
    let sources = [
        format!("{{= {}1{} =}}", "(".repeat(deep), ")".repeat(deep)),
        format!("{{= {}1 =}}", "(".repeat(deep)),
        format!("{{= {}night =}}", "not ".repeat(deep)),
        format!("{{= {}1 =}}", "- ".repeat(deep)),
        format!("{{= 1{} =}}", " + 1".repeat(deep)),
        format!("{{= night{} =}}", " and night".repeat(deep)),
        format!("{{= pier{} =}}", ".lower".repeat(deep)),
        format!("{{= {}1{} =}}", "[".repeat(deep), "]".repeat(deep)),
        format!("{{= {}1{} =}}", "if night then ".repeat(deep), " else 2".repeat(deep)),
        format!("{{= {}1 =}}", "if night then 1 else ".repeat(deep)),
        format!("{}{}", "{= if night =}".repeat(deep), "{= end =}".repeat(deep)),
        "{= if night =}".repeat(deep),
        format!("{}{}", "{= for p in piers =}".repeat(deep), "{= end =}".repeat(deep)),
        "{= match web =}{= case 'flask' =}".repeat(deep),
    ];
    for source in &sources {
        let codes = world.codes(source);
        let refused = codes.iter().any(|code| matches!(code.as_str(), "too-deep" | "unclosed-block"));
        assert!(refused, "{}: {:?}", &source[..40], &codes[..codes.len().min(3)]);
    }
    let chain = format!("{{= if night =}}a{}{{= end =}}", "{= else if night =}b".repeat(deep));
    assert_eq!(world.render(&chain).as_deref(), Ok("a"));
    let long = format!("{{= {} =}}", vec!["1"; deep].join(" == 1 or 1"));
    assert!(!world.codes(&long).is_empty());
}

#[test]
fn fragments_in_fragments_end() {
    let mut world = World::new();
    for n in 0..60 {
        let next = format!("{{= place 'f{}' =}}", n + 1);
        world.fragments.add(format!("f{n}"), next.repeat(2));
    }
    world.fragments.add("f60", "x");
    let codes = world.codes("{= place 'f0' =}");
    assert!(codes.iter().any(|code| code.as_str() == "too-deep"), "{codes:?}");
    // Within the depth, doubling is stopped by what a cast may take.
    let found = world.render("{= place 'f32' =}").unwrap_err();
    assert_eq!(found[0].code.as_str(), "limit-reached");
}

#[test]
fn odd_bytes_come_out_as_they_went_in() {
    let world = World::new();
    let line = "x".repeat(50 << 20);
    let texts = [
        "\u{0}\u{1}\u{7f}".to_owned(),
        "a\rb\r\nc\nd\r".to_owned(),
        "\u{feff}\u{feff}a\u{feff}".to_owned(),
        "\u{202e}\u{645}\u{2067}x".to_owned(),
        "{ = x = } {{ x }} <%= x %> ${x} {% x %} =} }=".to_owned(),
        line,
    ];
    for text in &texts {
        let budget = Budget::new(1 << 28);
        let setting = Setting::default();
        let program = compile("a", text, &world.scope, &setting).program.unwrap();
        let mut out = Vec::new();
        program.render(&world.values, &budget, &mut out).unwrap();
        assert!(out == text.as_bytes());
    }
}

/// Pieces that are likely to mean something together.
fn source() -> impl Strategy<Value = String> {
    let words = "{= =} if else end for in match case between let place given as-is note then and or not true \
        false pier berths night piers web extras unasked numbers p i 'a' \"b\" 1 0 -1 + - * / % == != < <= > >= . , ( ) [ ] = \
        upper snake json first at len has join value label package \n # // <!-- --> \r\n x";
    let words: Vec<String> = words.split(' ').map(str::to_owned).collect();
    let piece = prop_oneof![8 => prop::sample::select(words), 1 => any::<String>()];
    prop::collection::vec(piece, 0..40).prop_map(|pieces| pieces.join(" "))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 3000, ..ProptestConfig::default() })]

    #[test]
    fn text_without_marks_is_unchanged(text in any::<String>()) {
        prop_assume!(!text.contains("{="));
        prop_assert_eq!(World::new().render(&text), Ok(text));
    }

    #[test]
    fn whatever_compiles_renders(source in source(), number in any::<i64>(), text in any::<String>(), flag in any::<bool>()) {
        let mut world = World::new();
        for (name, value) in [
            ("berths", Value::Integer(number)),
            ("pier", Value::Text(text.clone())),
            ("night", Value::Flag(flag)),
            ("piers", Value::List(vec![Value::Text(text)])),
            ("numbers", Value::List(vec![Value::Integer(number)])),
        ] {
            let id = world.scope.find(name).unwrap();
            world.values.set(&world.scope, id, value).unwrap();
        }
        match world.render(&source) {
            Ok(_) => {}
            Err(found) => {
                prop_assert!(!found.is_empty());
                for finding in found {
                    prop_assert!(finding.span.end as usize <= source.len() || finding.file.starts_with("fragments/"));
                    prop_assert!(!finding.message.is_empty());
                }
            }
        }
    }

    #[test]
    fn literals_read_back_as_they_were(text in any::<String>(), number in any::<i64>()) {
        let escaped: String = text.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
        let scope = Scope::new();
        let values = Values::new(&scope);
        let setting = Setting::default();
        let read = |source: &str, wanted| {
            let compiled = compile_expression("literal", source, &scope, &setting, Some(wanted));
            compiled.program.unwrap().evaluate(&values, &Budget::default())
        };
        prop_assert_eq!(read(&format!("'{escaped}'"), Type::Text), Ok(Value::Text(text.clone())));
        prop_assert_eq!(read(&number.to_string(), Type::Integer), Ok(Value::Integer(number)));
        let quoted = text.replace('\\', "\\\\").replace('"', "\\\"");
        prop_assert_eq!(read(&format!("\"{quoted}\""), Type::Text), Ok(Value::Text(text)));
    }

    #[test]
    fn quoted_text_reads_back_from_json(text in any::<String>()) {
        let mut world = World::new();
        world.file = "a.json".into();
        let id = world.scope.find("pier").unwrap();
        world.values.set(&world.scope, id, Value::Text(text.clone())).unwrap();
        let out = world.render("[{= pier.json =}, ]").unwrap();
        let read: Vec<String> = serde_json::from_str(&out).unwrap();
        prop_assert_eq!(read, vec![text]);
    }
}
