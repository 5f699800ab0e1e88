//! A scope at Saltmarsh Ferries that the tests compile against.
#![allow(dead_code, clippy::unwrap_used)]

use tinmold_notation::{
    Budget, Choices, Code, Compiled, Element, FieldValue, Finding, Fragments, Marks, Renderer, Scope,
    Setting, Syntax, Traits, Type, Value, Values, compile,
};

pub struct World {
    pub scope: Scope,
    pub values: Values,
    pub fragments: Fragments,
    pub marks: Marks,
    pub file: String,
    pub local: bool,
}

impl World {
    pub fn new() -> Self {
        let mut scope = Scope::with_built_ins();
        let mut web = Choices::new("web");
        web.add("stdlib", "Standard library");
        web.add("flask", "Flask");
        web.set_field(1, "package", FieldValue::Text("flask".into())).unwrap();
        web.set_field(1, "major", FieldValue::Integer(3)).unwrap();
        let web = scope.add_choices(web);
        let mut extras = Choices::new("extras");
        for value in ["ci", "container", "compose"] {
            extras.add(value, value);
        }
        let extras = scope.add_choices(extras);
        let texts = Type::List(Element::Text);
        let names = [
            ("pier", Type::Text),
            ("package", Type::Text),
            ("berths", Type::Integer),
            ("night", Type::Flag),
            ("piers", texts),
            ("none", texts),
            ("note_text", Type::Text),
            ("secret", Type::Text),
            ("web", Type::Option { of: web, or_none: false }),
            ("plain_web", Type::Option { of: web, or_none: false }),
            ("unasked", Type::Option { of: web, or_none: true }),
            ("extras", Type::List(Element::Option(extras))),
            ("numbers", Type::List(Element::Integer)),
        ];
        for (name, of) in names {
            scope.add(name, of).unwrap();
        }
        let traits = |scope: &mut Scope, name: &str, traits| {
            let id = scope.find(name).unwrap();
            scope.set_traits(id, traits);
        };
        traits(&mut scope, "note_text", Traits { free: true, lines: true, ..Traits::default() });
        traits(&mut scope, "secret", Traits { minted: true, ..Traits::default() });
        traits(&mut scope, "package", Traits { path: true, ..Traits::default() });
        let mut values = Values::new(&scope);
        let text = |text: &str| Value::Text(text.into());
        for (name, value) in [
            ("pier", text("gull point")),
            ("package", text("example.saltmarsh")),
            ("berths", Value::Integer(4)),
            ("night", Value::Flag(true)),
            ("piers", Value::List(["Gull Point", "Heron Stairs", "Osier Island"].map(text).to_vec())),
            ("note_text", text("a \"b\"\nc")),
            ("secret", text("s3cr3t")),
            ("web", Value::Option(web, Some(1))),
            ("plain_web", Value::Option(web, Some(0))),
            ("extras", Value::List(vec![Value::Option(extras, Some(0)), Value::Option(extras, Some(2))])),
            ("numbers", Value::List([7, 1, 7].map(Value::Integer).to_vec())),
            ("mold.name", text("tide-service")),
            ("today", text("2026-11-23")),
            ("year", Value::Integer(2026)),
        ] {
            let id = scope.find(name).unwrap();
            values.set(&scope, id, value).unwrap();
        }
        let mut fragments = Fragments::default();
        fragments.add("head", "# {= mold.name =}\n");
        fragments.add("calls", "{= for p in stops =}\n- {= p =}\n{= end =}\n");
        fragments.add("empty", "{= if not night =}dark{= end =}\n");
        fragments.add("nested", "x:\n  {= place 'calls' given stops = piers =}\n\nend\n");
        fragments.add("there", "{= place 'back' =}");
        fragments.add("back", "{= place 'there' =}");
        Self { scope, values, fragments, marks: Marks::default(), file: "sign.txt".into(), local: false }
    }

    pub fn setting(&self) -> Setting<'_> {
        Setting {
            marks: &self.marks,
            fragments: &self.fragments,
            syntax: Syntax::of_path(&self.file),
            local: self.local,
            ..Setting::default()
        }
    }

    pub fn compiled<T>(&self, source: &str, use_it: impl FnOnce(Compiled<'_>) -> T) -> T {
        use_it(compile(&self.file, source, &self.scope, &self.setting()))
    }

    /// Returns the output of a program; a renderer that meets the source twice must return the
    /// same.
    pub fn render(&self, source: &str) -> Result<String, Vec<Finding>> {
        let rendered = self.compiled(source, |compiled| match compiled.program {
            Some(program) => {
                program.render_text(&self.values, &Budget::new(1 << 20)).map_err(|finding| vec![finding])
            }
            None => Err(compiled.findings),
        });
        let budget = Budget::new(4 << 20);
        let mut renderer = Renderer::new(&self.scope, &self.values, &budget, 1000);
        for _ in 0..2 {
            let mut out = b"before ".to_vec();
            let again = renderer.render(&self.file, source, &self.setting(), &mut out);
            match &rendered {
                Ok(text) => assert_eq!((again, &out[7..]), (Ok(()), text.as_bytes()), "{source}"),
                Err(found) if found.iter().all(|finding| finding.code.as_str() != "limit-reached") => {
                    let errors = found.iter().filter(|finding| finding.is_error()).cloned().collect();
                    assert_eq!((again, out), (Err(errors), b"before ".to_vec()), "{source}");
                }
                Err(_) => {}
            }
        }
        rendered
    }

    pub fn codes(&self, source: &str) -> Vec<Code> {
        self.compiled(source, |compiled| compiled.findings.iter().map(|finding| finding.code).collect())
    }
}
