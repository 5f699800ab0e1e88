//! Single mistakes that authors make, seeded into built-in molds: each is found at its place.
#![allow(clippy::unwrap_used)]

use std::sync::Mutex;
use tinmold_author::{CheckOptions, check};
use tinmold_mold::{Content, File, Mold, MoldError, Package, built_in};
use tinmold_notation::Finding;
use tinmold_platform::parallel;

/// What becomes of a file: another text instead of the first such text, or a new file.
enum Seed {
    Instead(&'static str, &'static str),
    New(&'static str),
    Bytes(&'static [u8]),
    Link(&'static str),
}
use Seed::{Bytes, Instead, Link, New};

/// The mold, the file, the mistake, and what is found: `code file:line`.
type Case = (&'static str, &'static str, Seed, &'static str);

const MAIN: &str = "body/src/{= module =}/__main__.py";
const COUNTS: &str = "body/src/{= module =}/counts.py";
const HEADER: &str = "body/include/{= name =}/count.h";
const ENTRY: &str = "body/src/{= name =}.c";

const CASES: &[Case] = &[
    // Names, tags and blocks
    (
        "c-tool",
        "body/README.md",
        Instead("{= summary.markdown =}", "{= sumary.markdown =}"),
        "unknown-name body/README.md:3",
    ),
    (
        "c-tool",
        "body/README.md",
        Instead("{= summary.markdown =}", "{= summary.markdwon =}"),
        "unknown-view body/README.md:3",
    ),
    (
        "c-tool",
        "body/README.md",
        Instead("{= summary.markdown =}", "{= summary.markdown }"),
        "bad-character body/README.md:3",
    ),
    (
        "c-tool",
        "body/README.md",
        Instead("{= summary.markdown =}", "{= place 'intro' =}"),
        "unknown-fragment body/README.md:3",
    ),
    ("c-tool", "body/Makefile", Instead("# {= end =}\nCC ?=", "CC ?="), "unclosed-block body/Makefile:1"),
    ("c-tool", "body/Makefile", Instead("# {= else =}", "# {= elif cmake =}"), "unexpected body/Makefile:65"),
    ("c-tool", "body/Makefile", Instead("# {= end =}", "# {= endif =}"), "unexpected body/Makefile:3"),
    ("c-tool", "body/Makefile", Instead("# {= end =}", "# {= end for =}"), "wrong-end body/Makefile:3"),
    (
        "c-tool",
        "fragments/ci-job",
        Instead("{= if lint =}", "{= if lnit =}"),
        "unknown-name fragments/ci-job:13",
    ),
    (
        "python-library",
        "body/Makefile",
        Instead("{= if command =}", "{= if name =}"),
        "wrong-type body/Makefile:5",
    ),
    // mold.toml
    (
        "c-tool",
        "mold.toml",
        Instead("help        = \"Names", "hlep        = \"Names"),
        "unknown-key mold.toml:15",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("kind        = \"text\"", "kind        = \"txt\""),
        "unknown-key mold.toml:17",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("form        = \"kebab\"", "form        = \"kebap\""),
        "unknown-form mold.toml:18",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("default = \"program\"", "default = \"progam\""),
        "bad-value mold.toml:49",
    ),
    ("c-tool", "mold.toml", Instead("key     = \"shape\"", "key     = \"name\""), "bad-key mold.toml:13"),
    (
        "c-tool",
        "mold.toml",
        Instead("when  = \"program\"", "when  = \"programm\""),
        "unknown-name mold.toml:169",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("match = \"tests/program.sh\"", "match = \"tests/progarm.sh\""),
        "unused-rule mold.toml:171",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("version = \">=3.21\"", "version = \">=3.x.1\""),
        "bad-need mold.toml:200",
    ),
    ("c-tool", "mold.toml", Instead("after = [\"build\"]", "after = [\"biuld\"]"), "bad-step mold.toml:231"),
    (
        "c-tool",
        "mold.toml",
        Instead("folder   = \"{= name =}\"", "folder   = \"out/{= name =}\""),
        "bad-folder mold.toml:10",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("{= name.sentence =}, written", "{= prefix =}, written"),
        "used-too-early mold.toml:31",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("ask         = \"Name\"", "ask         = \"Name of {= name =}\""),
        "tag-in-fixed-text mold.toml:14",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("answers = { extras = []", "answers = { extra = []"),
        "unknown-key mold.toml:268",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("answers = { extras = [] }", "answers = { extras = [], holder = \"us\" }"),
        "idle-answer mold.toml:268",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("default = [\"editor\", \"lint\"]", "default = [\"updates\"]"),
        "bad-value mold.toml:120",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("extras = [\"editor\", \"lint\", \"ci\"]", "extras = [\"editor\", \"updates\"]"),
        "bad-value mold.toml:272",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("path = \"tests/count.c\"", "path = \"tests/cuont.c\""),
        "missing-path mold.toml:260",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("\"make test\", \"{= if", "\"make tests\", \"{= if"),
        "missing-target mold.toml:264",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("run     = [\"make\", \"build\"]", "run     = [\"make\", \"compile\"]"),
        "missing-target mold.toml:223",
    ),
    (
        "rust-cli",
        "body/README.md",
        Instead(
            "{= if clap =}\n    make update  take the newest crates\n{= end =}",
            "    make update  new crates",
        ),
        "missing-target body/README.md:15",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("  value = \"both\"", "  value = \"module\"\n  [[question.option]]\n  value = \"both\""),
        "forgotten-option mold.toml:59",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("when  = \"cmake\"", "when  = \"cmake and not cmake\""),
        "never-written mold.toml:175",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("[[need]]", "[[question]]\nkey = \"tide\"\nask = \"Tide\"\nkind = \"flag\"\n[[need]]"),
        "unused-question mold.toml:190",
    ),
    (
        "c-tool",
        "mold.toml",
        Instead("from  = \"../../layers/licence\"", "from  = \"../../layers/license\""),
        "bad-layer mold.toml:145",
    ),
    ("c-tool", "mold.toml", Instead("editor_indent = 4", "editor_indnet = 4"), "bad-layer mold.toml:149"),
    (
        "c-tool",
        "mold.toml",
        Instead("detail  = true", "detail  = true\nwas     = \"name\""),
        "bad-was mold.toml:42",
    ),
    // What comes out
    (
        "python-library",
        "body/pyproject.toml",
        Instead("readme = \"README.md\"", "readme = \"README.md"),
        "malformed-output body/pyproject.toml:9",
    ),
    (
        "python-library",
        "body/pyproject.toml",
        Instead("\n[project.scripts]", "\n[project]"),
        "malformed-output body/pyproject.toml:19",
    ),
    (
        "python-library",
        "body/pyproject.toml",
        Instead("license = \"{= licence =}\"", "name = \"{= licence =}\""),
        "malformed-output body/pyproject.toml:13",
    ),
    (
        "python-library",
        "body/pyproject.toml",
        Instead("{= summary.toml =}", "{= summary.json =}"),
        "wrong-quoting body/pyproject.toml:8",
    ),
    (
        "python-library",
        "body/pyproject.toml",
        Instead("{= summary.toml =}", "\"{= summary =}\""),
        "malformed-output body/pyproject.toml:8",
    ),
    (
        "python-library",
        "fragments/ci-job",
        Instead("runs-on: ubuntu", "runs-on ubuntu"),
        "malformed-output layers/ci/body/.github/workflows/tests.yml:14",
    ),
    (
        "python-library",
        COUNTS,
        Instead("def count", "deff count"),
        "malformed-code body/src/{= module =}/counts.py:22",
    ),
    ("python-library", COUNTS, Instead("(", "(("), "malformed-code body/src/{= module =}/counts.py:6"),
    (
        "python-library",
        MAIN,
        Instead("return ", "retrun "),
        "malformed-code body/src/{= module =}/__main__.py:31",
    ),
    (
        "python-library",
        MAIN,
        Instead(":\n    ", ":\n  "),
        "malformed-code body/src/{= module =}/__main__.py:13",
    ),
    (
        "python-library",
        "body/tests/test_counts.py",
        Instead("assert ", "asert "),
        "malformed-code body/tests/test_counts.py:19",
    ),
    ("c-tool", ENTRY, Instead(";", ""), "malformed-code body/src/{= name =}.c:16"),
    ("c-tool", ENTRY, Instead(")\n{\n", ")\n\n"), "malformed-code body/src/{= name =}.c:25"),
    ("c-tool", HEADER, Instead(";", ",,"), "malformed-code body/include/{= name =}/count.h:14"),
    (
        "c-tool",
        "body/Makefile",
        Instead("\t@echo \"make test", "        @echo \"make test"),
        "malformed-code body/Makefile:43",
    ),
    (
        "c-tool",
        "body/README.md",
        Instead("make build    build", "make biuld    build"),
        "missing-target body/README.md:10",
    ),
    (
        "python-library",
        "body/README.md",
        Instead("docs/guide.md", "docs/gudie.md"),
        "missing-path body/README.md:12",
    ),
    // Files
    ("c-tool", "body/src/main.c~", New("x\n"), "junk-file body/src/main.c~:1"),
    ("c-tool", "body/NOTES.txt", Bytes(b"caf\xe9 {= name =}\n"), "never-rendered body/NOTES.txt:1"),
    ("c-tool", "body/latest", Link("build/none"), "dangling-link body/latest:1"),
    ("c-tool", "body/notes.md", New("of {{ name }}\n"), "never-rendered body/notes.md:1"),
    ("c-tool", "body/src/{= prefix =}.c", New("int x;\n"), "same-path body/src/{= prefix =}.c:1"),
    ("c-tool", "body/aux.h", New("int x;\n"), "unsafe-path body/aux.h (name):1"),
    ("c-tool", "fragments/left-over", New("x\n"), "unused-fragment fragments/left-over:1"),
    ("c-tool", "body/LICENSE", New("ours\n"), "layer-clash mold.toml:1"),
    ("python-library", "body/.gitignore", New("/tests\n"), "ignored-file body/tests/test_counts.py:1"),
    // Parts
    (
        "c-tool",
        "parts/module/part.toml",
        Instead("name  = \"calls\"", "name  = \"call\""),
        "bad-joint parts/module/part.toml:44",
    ),
    (
        "c-tool",
        "body/tests/tests.c",
        Instead("joint: calls (tinmold)", "joint: cals (tinmold)"),
        "bad-joint parts/module/part.toml:44",
    ),
    (
        "c-tool",
        "parts/module/part.toml",
        Instead("does.markdown", "does.markdwon"),
        "unknown-view parts/module/part.toml:51",
    ),
    (
        "c-tool",
        "parts/module/part.toml",
        Instead("lines = [\"int test_", "lines = [\"int (test_"),
        "malformed-code parts/module/part.toml:39",
    ),
    (
        "c-tool",
        "parts/module/part.toml",
        Instead("name    = \"module\"", "name    = \"modul\""),
        "bad-part parts/module/part.toml:2",
    ),
    (
        "python-library",
        "parts/module/part.toml",
        Instead("\"counts\"", "\"count\""),
        "taken-path parts/module/part.toml:6",
    ),
    (
        "python-library",
        "parts/dependency/part.toml",
        Instead("project = {", "projct = {"),
        "new-table parts/dependency/part.toml:19",
    ),
];

fn seeded(mold: &str, path: &str, seed: &Seed) -> Package {
    let mut package = built_in(mold).unwrap();
    let content = match seed {
        Instead(old, new) => {
            let text = String::from_utf8(package.file(path).unwrap().read().unwrap().into_owned()).unwrap();
            if !text.contains(old) {
                eprintln!("NOSEED {mold}/{path} has no {old:?}");
            }
            Content::Held(text.replacen(old, new, 1).into_bytes().into())
        }
        New(text) => Content::Held(text.as_bytes().into()),
        Bytes(bytes) => Content::Held((*bytes).into()),
        Link(target) => Content::Link((*target).to_owned()),
    };
    package.files.retain(|file| file.path != path);
    package.files.push(File::new(path.to_owned(), content, 0o644));
    package.files.sort_by(|a, b| a.path.cmp(&b.path));
    package
}

/// `code file:line` of all that is found.
fn found(package: Package) -> Vec<String> {
    let line = |package: &Package, finding: &Finding| {
        let text = package
            .file(&finding.file)
            .map_or_else(String::new, |file| String::from_utf8_lossy(&file.read().unwrap()).into_owned());
        format!("{} {}:{}", finding.code, finding.file, finding.position(&text).line)
    };
    match Mold::load(package) {
        Ok(mold) => {
            let checked = check(&mold, CheckOptions::default());
            checked.findings.iter().map(|it| line(&mold.package, &it.finding)).collect()
        }
        Err(MoldError::Faulty(faulty)) => {
            faulty.findings.iter().map(|finding| line(&faulty.package, finding)).collect()
        }
        Err(error) => vec![error.to_string()],
    }
}

#[test]
fn every_mistake_is_found_at_its_place() {
    let missed = Mutex::new(Vec::new());
    parallel::each(CASES, |(mold, path, seed, expected)| {
        let found = found(seeded(mold, path, seed));
        if !found.iter().any(|it| it == expected) {
            let how = match seed {
                Instead(old, new) => format!("{old:?} -> {new:?}"),
                _ => "new".to_owned(),
            };
            missed
                .lock()
                .unwrap()
                .push(format!("{mold}/{path} {how}\n  expected {expected}\n  found {found:?}"));
        }
    });
    let missed = missed.into_inner().unwrap();
    assert!(missed.is_empty(), "{} of {} are missed:\n{}", missed.len(), CASES.len(), missed.join("\n"));
}
