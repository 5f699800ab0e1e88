//! The notation beside general-purpose template engines: the same page, byte for byte the same output.
//!
//! `cargo bench -p tinmold-bench --bench engines` prints the table of docs/performance.md.

mod support;

use askama::Template;
use serde::Serialize;
use std::hint::black_box;
use std::time::Duration;
use support::{Contender, medians};
use tinmold_notation::{
    Budget, Choices, ChoicesId, Element, FieldValue, Scope, Setting, Syntax, Type, Value, Values, compile,
};

type Fallible<T> = Result<T, Box<dyn std::error::Error>>;

const FIELDS: [&str; 14] = [
    "name",
    "version",
    "edition",
    "license",
    "summary",
    "homepage",
    "repository",
    "author",
    "email",
    "keyword",
    "category",
    "readme",
    "toolchain",
    "profile",
];

#[derive(Serialize)]
struct Library {
    package: String,
    version: String,
}

/// What the page says, for the engines that take it as a structure.
#[derive(Serialize, Template)]
#[template(path = "page.txt", escape = "none")]
struct Page {
    name: String,
    version: String,
    edition: String,
    license: String,
    summary: String,
    homepage: String,
    repository: String,
    author: String,
    email: String,
    keyword: String,
    category: String,
    readme: String,
    toolchain: String,
    profile: String,
    year: i64,
    offline: bool,
    libraries: Vec<Library>,
}

fn page() -> Page {
    let text = |field: &str| format!("{field} of the departures board at Gull Point");
    let libraries = (0..20)
        .map(|n| Library { package: format!("harbor-library-{n}"), version: format!("1.{n}.0") })
        .collect();
    Page {
        name: text("name"),
        version: text("version"),
        edition: text("edition"),
        license: text("license"),
        summary: text("summary"),
        homepage: text("homepage"),
        repository: text("repository"),
        author: text("author"),
        email: text("email"),
        keyword: text("keyword"),
        category: text("category"),
        readme: text("readme"),
        toolchain: text("toolchain"),
        profile: text("profile"),
        year: 2026,
        offline: true,
        libraries,
    }
}

/// The page's text with each engine's own tags: how a value is put in, and what chooses and repeats.
fn source(value: impl Fn(&str) -> String, offline: [&str; 2], libraries: [&str; 2]) -> String {
    let mut page = String::from("# The manifest of a service at Saltmarsh Ferries.\n[package]\n");
    for field in FIELDS {
        page += &format!("{field} = \"{}\"\n", value(field));
    }
    page += &format!("year = {}\n", value("year"));
    page += &format!("{}[net]\noffline = true\n{}", offline[0], offline[1]);
    page += &format!(
        "\n[dependencies]\n{}{} = \"{}\"\n{}",
        libraries[0],
        value("library.package"),
        value("library.version"),
        libraries[1]
    );
    page
}

fn jinja_values(page: &Page) -> minijinja::Value {
    use minijinja::Value;
    let libraries = page.libraries.iter().map(|library| {
        Value::from_pairs([("package", library.package.as_str()), ("version", library.version.as_str())])
    });
    let fields = FIELDS
        .into_iter()
        .map(|field| (field, Value::from(format!("{field} of the departures board at Gull Point"))));
    let rest = [
        ("year", Value::from(page.year)),
        ("offline", Value::from(page.offline)),
        ("libraries", Value::from(libraries.collect::<Vec<_>>())),
    ];
    Value::from_pairs(fields.chain(rest))
}

struct Ours {
    scope: Scope,
    values: Values,
}

impl Ours {
    fn new(page: &Page) -> Fallible<Self> {
        let mut scope = Scope::new();
        let mut choices = Choices::new("libraries");
        for (at, library) in page.libraries.iter().enumerate() {
            choices.add(&library.package, &library.package);
            choices.set_field(at, "package", FieldValue::Text(library.package.clone()))?;
            choices.set_field(at, "version", FieldValue::Text(library.version.clone()))?;
        }
        let of = scope.add_choices(choices);
        for field in FIELDS {
            scope.add(field, Type::Text)?;
        }
        scope.add("edition_year", Type::Integer)?;
        scope.add("offline", Type::Flag)?;
        scope.add("libraries", Type::List(Element::Option(of)))?;
        let values = Self::values(&scope, page, of)?;
        Ok(Self { scope, values })
    }

    fn values(scope: &Scope, page: &Page, of: ChoicesId) -> Fallible<Values> {
        let mut values = Values::new(scope);
        for field in FIELDS {
            values.set_text(scope, field, format!("{field} of the departures board at Gull Point"))?;
        }
        let mut set = |name: &str, value| -> Fallible<()> {
            let id = scope.find(name).ok_or("a name of the page is missing")?;
            Ok(values.set(scope, id, value)?)
        };
        set("edition_year", Value::Integer(page.year))?;
        set("offline", Value::Flag(page.offline))?;
        let libraries = (0..page.libraries.len()).map(|at| Value::Option(of, u16::try_from(at).ok()));
        set("libraries", Value::List(libraries.collect()))?;
        Ok(values)
    }
}

fn main() -> Fallible<()> {
    let page = page();
    let ours = Ours::new(&page)?;
    let setting = Setting { syntax: Syntax::Toml, ..Setting::default() };
    let budget = Budget::new(u64::MAX);

    let own_source = source(
        |name| format!("{{= {} =}}", if name == "year" { "edition_year" } else { name }),
        ["# {= if offline =}\n", "# {= end =}\n"],
        ["# {= for library in libraries =}\n", "# {= end =}\n"],
    );
    let braces = |name: &str| format!("{{{{ {name} }}}}");
    let statements = ["{% if offline %}", "{% endif %}"];
    let jinja = source(braces, statements, ["{% for library in libraries %}", "{% endfor %}"]);
    let upon_source = source(braces, statements, ["{% for library in libraries %}", "{% endfor %}"]);
    let bars = source(
        |name| format!("{{{{{{{}}}}}}}", name.replace("library.", "this.")),
        ["{{#if offline}}", "{{/if}}\n"],
        ["{{#each libraries}}", "{{/each}}"],
    );

    let program = compile("page", &own_source, &ours.scope, &setting).program.ok_or("the page compiles")?;
    // Every engine gets its values in the shape that it likes best, made once.
    let jinja_values = jinja_values(&page);
    let mut minijinja = minijinja::Environment::new();
    minijinja.add_template("page", &jinja)?;
    let mut tera = tera::Tera::default();
    tera.add_raw_template("page", &jinja)?;
    let tera_context = tera::Context::from_serialize(&page)?;
    let mut handlebars = handlebars::Handlebars::new();
    handlebars.register_escape_fn(handlebars::no_escape);
    handlebars.register_template_string("page", &bars)?;
    let mut upon = upon::Engine::new();
    upon.add_template("page", upon_source.as_str())?;

    let expected = page.render()?;
    let mut out = Vec::new();
    program.render(&ours.values, &budget, &mut out).map_err(|finding| finding.message)?;
    same("the notation", &expected, &String::from_utf8(out)?)?;
    same("minijinja", &expected, &minijinja.get_template("page")?.render(jinja_values.clone())?)?;
    same("tera", &expected, &tera.render("page", &tera_context)?)?;
    same("handlebars", &expected, &handlebars.render("page", &page)?)?;
    same("upon", &expected, &upon.template("page").render(&page).to_string()?)?;

    let mut buffer = Vec::with_capacity(8192);
    let mut rendering = vec![
        Contender {
            name: "the notation",
            work: Box::new(|| {
                buffer.clear();
                let _ = black_box(program.render(&ours.values, &budget, &mut buffer));
            }),
        },
        Contender {
            name: "minijinja",
            work: Box::new(|| {
                drop(black_box(minijinja.get_template("page").map(|page| page.render(jinja_values.clone()))));
            }),
        },
        Contender { name: "tera", work: Box::new(|| drop(black_box(tera.render("page", &tera_context)))) },
        Contender {
            name: "handlebars",
            work: Box::new(|| drop(black_box(handlebars.render("page", &page)))),
        },
        Contender {
            name: "upon",
            work: Box::new(|| drop(black_box(upon.template("page").render(&page).to_string()))),
        },
        Contender { name: "askama (compiled in)", work: Box::new(|| drop(black_box(page.render()))) },
    ];
    let render = medians(&mut rendering, 31);

    let mut buffer = Vec::with_capacity(8192);
    let mut both = vec![
        Contender {
            name: "the notation",
            work: Box::new(|| {
                buffer.clear();
                let compiled = compile("page", &own_source, &ours.scope, &setting);
                if let Some(program) = compiled.program {
                    let _ = black_box(program.render(&ours.values, &budget, &mut buffer));
                }
            }),
        },
        Contender {
            name: "minijinja",
            work: Box::new(|| {
                let engine = minijinja::Environment::new();
                drop(black_box(engine.render_str(&jinja, jinja_values.clone())));
            }),
        },
        Contender {
            name: "tera",
            work: Box::new(|| {
                let mut engine = tera::Tera::default();
                let _ = engine.add_raw_template("page", &jinja);
                drop(black_box(engine.render("page", &tera_context)));
            }),
        },
        Contender {
            name: "handlebars",
            work: Box::new(|| {
                let mut engine = handlebars::Handlebars::new();
                engine.register_escape_fn(handlebars::no_escape);
                drop(black_box(engine.render_template(&bars, &page)));
            }),
        },
        Contender {
            name: "upon",
            work: Box::new(|| {
                let engine = upon::Engine::new();
                if let Ok(template) = engine.compile(upon_source.as_str()) {
                    drop(black_box(template.render(&engine, &page).to_string()));
                }
            }),
        },
    ];
    let compile_and_render = medians(&mut both, 31);

    println!("| engine | compile and render | against the notation | render alone | against the notation |");
    println!("|---|---|---|---|---|");
    for (at, contender) in rendering.iter().enumerate() {
        let both = compile_and_render.get(at);
        println!(
            "| {} | {} | {} | {} | {} |",
            contender.name,
            both.map_or_else(|| "at build time".to_owned(), |time| micros(*time)),
            both.map_or_else(String::new, |time| ratio(*time, compile_and_render[0])),
            micros(render[at]),
            ratio(render[at], render[0]),
        );
    }
    let fastest = |times: &[Duration]| times[1..5].iter().min().copied().unwrap_or_default();
    println!();
    println!(
        "Against the fastest run-time engine: compile and render {:.2} of its time (bar 0.33), render alone {:.2} (bar 0.20).",
        compile_and_render[0].as_secs_f64() / fastest(&compile_and_render).as_secs_f64(),
        render[0].as_secs_f64() / fastest(&render).as_secs_f64()
    );
    growth(&ours, &setting, &budget)
}

fn same(name: &str, expected: &str, found: &str) -> Fallible<()> {
    if expected == found {
        Ok(())
    } else {
        Err(format!("{name} gives another page:\n{found}\n---\n{expected}").into())
    }
}

fn micros(time: Duration) -> String {
    format!("{:.2} µs", time.as_secs_f64() * 1e6)
}

fn ratio(time: Duration, base: Duration) -> String {
    format!("{:.1} ×", time.as_secs_f64() / base.as_secs_f64())
}

/// Twice the tags and twice the text must cost about twice the time.
fn growth(ours: &Ours, setting: &Setting<'_>, budget: &Budget) -> Fallible<()> {
    let line = "name = \"{= name =}\" # {= if offline =}{= summary.title =}{= end =} plain text up to the end of the line\n";
    println!("\n| lines with three tags each | compile and render | for each line |");
    println!("|---|---|---|");
    for lines in [250, 1000, 4000, 16000] {
        let source = line.repeat(lines);
        let mut buffer = Vec::new();
        let mut contenders = [Contender {
            name: "growth",
            work: Box::new(|| {
                buffer.clear();
                if let Some(program) = compile("page", &source, &ours.scope, setting).program {
                    let _ = black_box(program.render(&ours.values, budget, &mut buffer));
                }
            }),
        }];
        let time = medians(&mut contenders, 11)[0];
        println!("| {lines} | {} | {} |", micros(time), micros(time / lines as u32));
    }
    Ok(())
}
