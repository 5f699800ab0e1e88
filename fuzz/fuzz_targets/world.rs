//! The names that fuzzed sources see.

use std::sync::LazyLock;
use tinmold_notation::{
    Choices, Element, FieldValue, Fragments, Scope, Traits, Type, Value, Values,
};

pub struct World {
    pub scope: Scope,
    pub values: Values,
    pub fragments: Fragments,
}

static WORLD: LazyLock<World> = LazyLock::new(made);

pub fn world() -> &'static World {
    &WORLD
}

fn made() -> World {
    let mut scope = Scope::with_built_ins();
    let mut web = Choices::new("w");
    web.add("a", "A");
    web.add("b", "B");
    web.set_field(1, "f", FieldValue::Text("flask".into())).unwrap();
    web.set_field(0, "m", FieldValue::Integer(3)).unwrap();
    let web = scope.add_choices(web);
    let names = [
        ("t", Type::Text),
        ("i", Type::Integer),
        ("g", Type::Flag),
        ("w", Type::Option { of: web, or_none: false }),
        ("u", Type::Option { of: web, or_none: true }),
        ("l", Type::List(Element::Text)),
        ("n", Type::List(Element::Integer)),
        ("e", Type::List(Element::Option(web))),
        ("s", Type::Text),
    ];
    for (name, of) in names {
        scope.add(name, of).unwrap();
    }
    let secret = scope.find("s").unwrap();
    scope.set_traits(secret, Traits { minted: true, free: true, path: true, ..Traits::default() });
    let mut values = Values::new(&scope);
    let given = [
        ("t", Value::Text("gull \"point\"\n\u{e9},".into())),
        ("i", Value::Integer(7)),
        ("g", Value::Flag(true)),
        ("w", Value::Option(web, Some(1))),
        ("l", Value::List(vec![Value::Text("x\ny".into()), Value::Text(String::new())])),
        ("n", Value::List(vec![Value::Integer(i64::MIN), Value::Integer(2), Value::Integer(2)])),
        ("e", Value::List(vec![Value::Option(web, Some(0)), Value::Option(web, Some(1))])),
        ("today", Value::Text("2026-11-23".into())),
    ];
    for (name, value) in given {
        let id = scope.find(name).unwrap();
        values.set(&scope, id, value).unwrap();
    }
    let mut fragments = Fragments::default();
    fragments.add("p", "- {= t =}\n{= for x in l =}{= x =}\n{= end =}");
    fragments.add("q", "{= place 'p' =}{= given_x =}");
    fragments.add("r", "{= place 'r' =}");
    World { scope, values, fragments }
}
