//! Edits of structured files: what changes, and that nothing else does.
use tinmold_core::fit::edit::{Data, Edited, Wanted, edit};
use tinmold_core::formats::Holds;

fn wanted(json: &str) -> Wanted {
    let value: serde_json::Value = serde_json::from_str(json).unwrap();
    let part = |key: &str| match Data::from(value.get(key).cloned().unwrap_or_default()) {
        Data::Table(entries) => entries,
        _ => Vec::new(),
    };
    let same = value.get("same").and_then(|same| same.as_str()).map(|same| regex::Regex::new(same).unwrap());
    Wanted { set: part("set"), add: part("add"), remove: part("remove"), same }
}

#[test]
fn probe() {
    let cases: &[(Holds, &str, &str)] = &[
        (
            Holds::Toml,
            "[package]\nname = \"tide\" # ours\n\n[dependencies]\n# the web\naxum = \"0.8\"\ntokio = { version = \"1\", features = [\"full\"] }\n\n[dev-dependencies]\nhttp = '1'\n",
            r#"{"set":{"dependencies":{"serde":{"version":"1","features":["derive"]}}}}"#,
        ),
        (Holds::Toml, "[package]\nname = \"tide\"\n", r#"{"set":{"dependencies":{"serde":"1"}}}"#),
        (Holds::Toml, "[package]\nname = \"tide\"", r#"{"set":{"dependencies":{"serde":"1"}}}"#),
        (
            Holds::Toml,
            "[project]\ndependencies = [\n  \"flask\", # web\n  \"peewee\", # rows\n  # last\n]\nname = 'x'\n",
            r#"{"add":{"project":{"dependencies":["waitress>=3"]}}}"#,
        ),
        (
            Holds::Toml,
            "[project]\ndependencies = [\n  \"flask\", # web\n  \"peewee\" # rows\n]\nname = 'x'\n",
            r#"{"add":{"project":{"dependencies":["waitress>=3"]}}}"#,
        ),
        (
            Holds::Toml,
            "[project]\ndependencies = [\"flask\"]\n",
            r#"{"add":{"project":{"dependencies":["waitress>=3"]}}}"#,
        ),
        (
            Holds::Toml,
            "[project]\ndependencies = []\n",
            r#"{"add":{"project":{"dependencies":["waitress>=3"]}}}"#,
        ),
        (
            Holds::Toml,
            "[project]\nname=\"x\"\n",
            r#"{"add":{"project":{"dependencies":["waitress>=3"]}},"set":{"tool":{"ruff":{"line-length":100}}}}"#,
        ),
        (Holds::Toml, "[tool.black]\nline = 1\n", r#"{"set":{"tool":{"ruff":{"line-length":100}}}}"#),
        (Holds::Toml, "[a]\nx = { p = 1 } # p\n", r#"{"set":{"a":{"x":{"q":2}}}}"#),
        (
            Holds::Toml,
            "[project]\ndependencies = [\n  \"flask\", # web\n  \"peewee\", # rows\n]\n",
            r#"{"remove":{"project":{"dependencies":"peewee"}}}"#,
        ),
        (
            Holds::Toml,
            "[project]\ndependencies = [\n  \"flask\", # web\n  \"peewee\" # rows\n]\n",
            r#"{"remove":{"project":{"dependencies":"flask"}}}"#,
        ),
        (
            Holds::Toml,
            "[project]\ndependencies = [\"flask\", \"peewee\"]\n",
            r#"{"remove":{"project":{"dependencies":"flask"}}}"#,
        ),
        (
            Holds::Toml,
            "[[bin]]\nname = \"a\"\n\n[lib]\nname = \"c\"\n",
            r#"{"add":{"bin":[{"name":"b","path":"b.rs"}]}}"#,
        ),
        (
            Holds::Json,
            "{\n  \"name\": \"x\",\n  \"dependencies\": {\n    \"express\": \"^5\",\n    \"zod\": \"^4\"\n  }\n}\n",
            r#"{"set":{"dependencies":{"fastify":"^5"},"devDependencies":{"vite":"^7"}}}"#,
        ),
        (
            Holds::Json,
            "{\n\t\"name\": \"x\",\n\t\"keywords\": [\"a\"]\n}",
            r#"{"set":{"dependencies":{"fastify":"^5"}},"add":{"keywords":["b"]}}"#,
        ),
        (Holds::Json, "{\"name\": \"x\", \"files\": []}", r#"{"add":{"files":["b"]}}"#),
        (
            Holds::Jsonc,
            "// top\n{\n  // about a\n  \"a\": 1, // one\n  \"b\": 2, // two\n  // end\n}\n",
            r#"{"set":{"c":3}}"#,
        ),
        (Holds::Jsonc, "{\n  \"a\": 1, // one\n  \"b\": 2 // two\n}\n", r#"{"set":{"c":{"d":[1,2]}}}"#),
        (Holds::Json, "{\n  \"a\": 1,\n  \"b\": 2\n}\n", r#"{"remove":{"": 1}}"#),
        (Holds::Json, "{\n  \"s\": {\n    \"a\": 1,\n    \"b\": 2\n  }\n}\n", r#"{"remove":{"s":"b"}}"#),
        (
            Holds::Yaml,
            "# site\nname: x # n\nnav:\n  - home.md\n  - about.md # a\n\nplugins: [search, tags]\n",
            r#"{"add":{"nav":["tides.md"],"plugins":["rss"]},"set":{"extra":{"theme":{"dark":true},"list":["a","b"]}}}"#,
        ),
        (
            Holds::Yaml,
            "on:\n  push:\n    branches: [main]\njobs:\n  test:\n    runs-on: ubuntu\n    steps:\n    - uses: a\n    - run: |\n        make test\n        make lint\n\n  # next\n  zoo:\n    runs-on: x",
            r#"{"add":{"jobs":{"test":{"steps":[{"name":"b","run":"c d"}]}}},"set":{"jobs":{"lint":{"runs-on":"ubuntu"}}}}"#,
        ),
        (Holds::Yaml, "a:\nb: {}\nc: []\n", r#"{"add":{"a":["x"],"c":["y"]},"set":{"b":{"k":"v: w"}}}"#),
        (Holds::Yaml, "a:\n  - x\n  - yes now # why\nb: 1\n", r#"{"remove":{"a":"yes now"}}"#),
    ];
    for (holds, text, json) in cases {
        let out = edit(*holds, text, &wanted(json), false);
        match &out {
            Edited::Changed(new, _) => println!("--- {json}\n{new}<<<"),
            other => println!("--- {json}\n{text}\n=> {other:?}"),
        }
    }
}
