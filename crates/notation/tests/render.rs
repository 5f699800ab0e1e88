//! The output of sources without mistakes.

#![allow(clippy::unwrap_used)]

mod common;
use common::World;
use tinmold_notation::{
    Budget, Marks, Renderer, Scope, Setting, Value, Values, compile_expression, compile_name,
};

#[test]
fn sources_become_texts() {
    let world = World::new();
    let cases: &[(&str, &str)] = &[
        // Values and texts
        ("", ""),
        ("{= pier =}", "gull point"),
        ("a{=pier=}b{= berths =}{= night =}", "agull pointb4true"),
        ("{= \"{=\" =} x {= '=}' =}", "{= x =}"),
        (r#"{= "\u{2693}\t\"\\" =}"#, "\u{2693}\t\"\\"),
        ("{= web =} {= web.label =} {= web.package =} {= web.major + 1 =}", "flask Flask flask 4"),
        ("[{= plain_web.package =}{= plain_web.major =}{= unasked =}{= unasked.label =}]", "[0]"),
        ("{= mold.name =} {= today.date('%d.%m.%Y') =} {= year =}", "tide-service 23.11.2026 2026"),
        ("{= if night then 'late' else 'early' =}", "late"),
        // Conditions
        ("{= if night =}N{= else =}D{= end =}", "N"),
        ("{= if berths > 9 =}a{= else if berths == 4 =}b{= else =}c{= end =}", "b"),
        ("{= if berths > 9 =}a{= else if berths == 5 =}b{= else =}c{= end =}", "c"),
        ("{= if web == 'flask' and not (berths < 2) or false =}y{= end =}", "y"),
        ("{= if 'compose' in extras and 'container' not in extras =}y{= end =}", "y"),
        ("{= if unasked == 'flask' =}y{= else =}n{= end =}", "n"),
        ("{= if web in ['stdlib', 'flask'] =}y{= end =}", "y"),
        ("{= if not night and not night =}y{= else =}n{= end =}", "n"),
        // Match
        ("{= match web =}{= case 'stdlib' =}S{= case 'flask' =}F{= end =}", "F"),
        ("{= match web =}{= case 'stdlib', 'flask' =}any{= end =}", "any"),
        ("{= match unasked =}{= case 'stdlib', 'flask' =}any{= else =}none{= end =}", "none"),
        ("{= match pier =}{= case 'x', 'gull point' =}1{= else =}2{= end =}", "1"),
        ("{= match berths - 6 =}\n{= case 3 =}a\n{= case -2 =}\nb\n{= else =}\nc\n{= end =}\n", "b\n"),
        ("{= if night =}a{= match web =}{= case 'flask' =}b{= else =}{= end match =}{= end if =}", "ab"),
        ("{= match web case 'stdlib' then 1 case 'flask' then 2 =}", "2"),
        ("{= match unasked case 'stdlib', 'flask' then 'some' else 'none' =}", "none"),
        (
            "{= let x = match berths case 3 then 'a' case -4, 4 then 'b' else 'c' =}{= x + (match pier case 'x' then 'y' else 'z') =}",
            "bz",
        ),
        ("{= if (match web case 'stdlib' then false case 'flask' then night) =}y{= else =}n{= end =}", "y"),
        (
            "{= for p in piers =}{= match p case 'Gull Point' then 'G' else p.flat =};{= end for =}",
            "G;heronstairs;osierisland;",
        ),
        ("{= as-is =}{= pier =}{= end as-is =}!", "{= pier =}!"),
        // Loops
        ("{= for p in piers =}{= p.flat =}{= between =}, {= end =}.", "gullpoint, heronstairs, osierisland."),
        (
            "{= for p, i in piers =}{= i =}:{= p.kebab =}{= between ' ' =}{= end =}",
            "0:gull-point 1:heron-stairs 2:osier-island",
        ),
        (
            "{= for p, i in piers if p.has('s') =}{= i =}{= p =}{= between =}|{= i =}{= p =}|{= end =}",
            "0Heron Stairs|0Heron Stairs|1Osier Island",
        ),
        ("{= for p, i in piers if i < 1 =}{= p =}{= end =}", "Gull Point"),
        ("[{= for p in none =}x{= between =}y{= end =}]", "[]"),
        ("[{= for p in piers if p == '' =}x{= end =}]", "[]"),
        ("{= for e in extras =}{= e =};{= end =}", "ci;compose;"),
        (
            "{= for a in numbers =}{= for b in numbers if b > a =}{= a =}<{= b =} {= end =}{= end =}",
            "1<7 1<7 ",
        ),
        (
            "{= let total = berths * 2 =}{= total =}{= if night =}{= let inner = total + 1 =}{= inner =}{= end =}{= let inner = 'x' =}{= inner =}",
            "89x",
        ),
        // Simple rounds
        (
            "{= for w in [web, plain_web] =}<{= w.package =}|{= pier =}>{= between ', ' =}{= end =}.",
            "<flask|gull point>, <|gull point>.",
        ),
        (
            "{= for w in [web] =}{= w.package =}{= w.package =}{= w.major =}{= w =}{= end =}",
            "flaskflask3flask",
        ),
        (
            "{= for n in numbers =}{= n =}{= berths =}{= night =}{= between '-' =} {= end =}",
            "74true- 14true- 74true ",
        ),
        (
            "{= for a in piers.take(2) =}{= for b in numbers.take(2) =}{= b =}{= a =} {= end =}{= end =}",
            "7Gull Point 1Gull Point 7Heron Stairs 1Heron Stairs ",
        ),
        ("{= for w in [web] + [unasked] =}[{= w.package =}]{= end =}", "[flask][]"),
        // The line rule
        ("a\n{= if night =}\nb\n{= end =}\nc\n", "a\nb\nc\n"),
        ("a\n  # {= if night =}\n  b\n  # {= end =}\nc", "a\n  b\nc"),
        ("<!-- {= if night =} -->\nb\n/* {= end =} */\n(* {= note x =} *)\n", "b\n"),
        (
            "REM {= note a =}\n:: {= note b =}\n-- {= note c =}\n; {= note =}\n% {= note d =}\n// {= note e =}\n",
            "",
        ),
        ("<!-- {= note x =}\n", "<!-- \n"),
        ("# {= note x =} -->\n", "#  -->\n"),
        ("## {= note x =}\n", "## \n"),
        ("{= note\n spans =} {= if night =}\nx\n{= end =}", "x\n"),
        ("{= if night =}{= pier =}{= end =}\n", "gull point\n"),
        ("a {= if night =}\nb{= end =}\n", "a \nb\n"),
        ("a\r\n{= if night =}\r\nb\r\n{= end =}\r\nc\r\n", "a\r\nb\r\nc\r\n"),
        ("\u{feff}{= note x =}\na", "\u{feff}a"),
        (
            "# {= for p in piers =}\n{= p =} = 1\n# {= between =}\n\n# {= end =}\n",
            "Gull Point = 1\n\nHeron Stairs = 1\n\nOsier Island = 1\n",
        ),
        // Unchanged text
        ("{= as-is =}{= pier =} {=  x{= end =}{= pier =}", "{= pier =} {=  xgull point"),
        ("a\n# {= as-is =}\n{{ \"{= if =}\" }}\n# {=end=}\nb\n", "a\n{{ \"{= if =}\" }}\nb\n"),
        // The indentation rule
        ("  {= note_text =};\n", "  a \"b\"\n  c;\n"),
        ("\t{= if night =}{= note_text =}{= end =}\n", "\ta \"b\"\n\tc\n"),
        ("x {= note_text =}\n", "x a \"b\"\nc\n"),
        ("  {= 'a\\n\\nb' + pier =}", "  a\n\n  bgull point"),
        // Fragments
        ("{= place 'head' =}\nx\n", "# tide-service\nx\n"),
        ("  {= place 'calls' given stops = piers.take(2) =}\n", "  - Gull Point\n  - Heron Stairs\n"),
        ("a\n  {= place 'empty' =}\nb\n", "a\nb\n"),
        ("a\n  {= place 'empty' =};\nb\n", "a\n  ;\nb\n"),
        (
            "    {= place 'nested' =}\n",
            "    x:\n      - Gull Point\n      - Heron Stairs\n      - Osier Island\n\n    end\n",
        ),
        (
            "\r\n{= place 'calls' given stops = piers.drop(1) =}\r\n",
            "\r\n- Heron Stairs\r\n- Osier Island\r\n",
        ),
        (
            "{= for p in piers =}{= place 'calls' given stops = [p] =}|{= end =}",
            "- Gull Point|- Heron Stairs|- Osier Island|",
        ),
        // Views
        (
            "{= pier.title =} {= pier.sentence =} {= pier.snake =} {= pier.camel =} {= pier.pascal =} {= pier.constant =}",
            "Gull Point Gull point gull_point gullPoint GullPoint GULL_POINT",
        ),
        ("{= package.dirs =} {= 'a/b'.dotted =} {= pier.upper.lower =}", "example/saltmarsh a.b gull point"),
        (
            "{= note_text.json =} {= note_text.toml =} {= note_text.yaml =}",
            r#""a \"b\"\nc" "a \"b\"\nc" "a \"b\"\nc""#,
        ),
        (
            "{= '<a>&\"'.xml =} {= \"it's\".shell =} {= '100%&'.batch =} {= 'a$b#'.make =} {= '*a*'.markdown =}",
            "&lt;a&gt;&amp;&quot; 'it'\\''s' 100%%^& a$$b\\# \\*a\\*",
        ),
        (
            r#"{= "\u{7}\u{2028}é??/".c =} {= "\u{7}\u{2028}".java =} {= "\u{7}\u{2028}".rust =} {= "\u{7}\u{2028}".python =}"#,
            r#""\007\342\200\250é?\?/" "\007\u2028" "\u{7}\u{2028}" "\x07\u2028""#,
        ),
        (
            "{= ' a '.trim =}|{= 'a\\n\\nb'.indent(2) =}|{= 'one two three'.wrap(7) =}|{= 'a\\nb'.comment('# ') =}",
            "a|  a\n\n  b|one two\nthree|# a\n# b",
        ),
        (
            "{= pier.replace('gull', 'tern') =}|{= pier.pad(12) =}|{= berths.pad(3) =}|{= (-4).pad(3) =}",
            "tern point|gull point  |004|-04",
        ),
        (
            "{= pier.len =} {= pier.empty =} {= pier.has('ll') =} {= pier.starts('gu') =} {= pier.ends('x') =} {= 'é'.len =}",
            "10 false true true false 1",
        ),
        ("{= 'a\\nb'.lines.join('+') =} {= ' a  b '.words.len =} {= 'a,b'.split(',').last =}", "a+b 2 b"),
        (
            "{= piers.first =} {= piers.at(1) =} {= numbers.sorted.join('') =} {= numbers.unique.join(',') =} {= numbers.has(7) =}",
            "Gull Point Heron Stairs 177 7,1 true",
        ),
        (
            "{= extras.has('ci') =} {= extras.join('+') =} {= extras.first.value.upper =} {= (piers + [pier]).len =}",
            "true ci+compose CI 4",
        ),
        (
            "{= berths.json =}{= night.toml =}{= -(berths - 9) % 3 =} {= 7 / 2 * 2 =} {= -9223372036854775808 =}",
            "4true2 6 -9223372036854775808",
        ),
        (
            "{= numbers == [7, 1, 7] =} {= 'a' < 'b' =} {= none == [] =} {= piers.take(0).empty =}",
            "true true true true",
        ),
    ];
    for (source, expected) in cases {
        assert_eq!(world.render(source).as_deref(), Ok(*expected), "{source:?}");
    }
}

#[test]
fn trailing_commas_of_json_go() {
    let mut world = World::new();
    world.file = "package.json".into();
    let cases: &[(&str, &str)] = &[
        ("{\"a\": 1,\n{= if not night =}\n\"b\": 2\n{= end =}\n}", "{\"a\": 1\n}"),
        (
            "[{= for p in piers =}{= p.json =},{= end =}]",
            "[\"Gull Point\",\"Heron Stairs\",\"Osier Island\"]",
        ),
        ("[1,\n {= for n in numbers =}{= n =}, {= end =}\n]", "[1,\n 7, 1, 7 \n]"),
        ("{\"a,]\": \"b,}\", \"c\": [1, 2,],}", "{\"a,]\": \"b,}\", \"c\": [1, 2]}"),
        ("[\"{= 'x,' =}]\"]", "[\"x,]\"]"),
        ("[1, // it's \"odd,\n 2,]", "[1, // it's \"odd,\n 2]"),
        ("[1, /* it's \"odd, */ 2,]", "[1, /* it's \"odd, */ 2]"),
        ("[1, // the last,\n /* */]", "[1 // the last,\n /* */]"),
        ("[1,{= if not night =}2{= end =},,\n]", "[1\n]"),
        ("[1, /* open ]", "[1, /* open ]"),
        ("[\"\\\",\n]\"", "[\"\\\",\n]\""),
    ];
    for (source, expected) in cases {
        assert_eq!(world.render(source).as_deref(), Ok(*expected), "{source:?}");
    }
}

#[test]
fn other_marks_work_alike() {
    let mut world = World::new();
    for (open, close) in [("<%", "%>"), ("<<", ">>"), ("@@", "@."), ("{_", "_}")] {
        world.marks = Marks::new(open, close).unwrap();
        let source = format!("{{= x =}} {open} if berths%3==1 {close}{open}pier{close}{open} end {close}");
        assert_eq!(world.render(&source).as_deref(), Ok("{= x =} gull point"), "{open}");
    }
    for (open, close) in
        [("{", "}"), ("{=", "{="), ("ab", "cd"), ("##", "=}"), ("[[", "]]"), ("'%", "%'"), ("{{{{{", "}}")]
    {
        assert!(Marks::new(open, close).is_err(), "{open} {close}");
    }
}

#[test]
fn names_of_files_open_and_vanish() {
    let world = World::new();
    let setting = Setting::for_name();
    let cases: &[(&str, Result<&str, &str>)] = &[
        ("Main.java", Ok("Main.java")),
        ("{= package.dirs =}", Ok("example/saltmarsh")),
        ("{= if night =}night.py{= end =}", Ok("night.py")),
        ("{= if not night =}day.py{= end =}", Ok("")),
        ("{= pier.snake =}.py", Ok("gull_point.py")),
        ("{= match web =}{= case 'flask' =}app.py{= case 'stdlib' =}server.py{= end =}", Ok("app.py")),
        ("{= match web =}{= case 'stdlib' =}server.py{= else =}{= end =}", Ok("")),
        ("{= match web =}{= case 'stdlib' =}server.py{= end =}", Err("missing-case")),
        ("{= plain_web.package =}.py", Err("empty-in-name")),
        ("{= 'a/b' + pier =}", Err("slash-in-name")),
        ("{= for p in piers =}{= p =}{= end =}", Err("tag-in-name")),
        ("{= secret =}", Err("minted-outside-local")),
    ];
    for (source, expected) in cases {
        let compiled = compile_name("body", source, &world.scope, &setting);
        let result = match compiled.program {
            Some(program) => program
                .render_text(&world.values, &Budget::default())
                .map_err(|finding| finding.code.as_str()),
            None => Err(compiled.findings[0].code.as_str()),
        };
        assert_eq!(result.as_deref().map_err(|code| *code), *expected, "{source}");
    }
}

#[test]
fn rendering_stops_at_its_limits() {
    let world = World::new();
    let cases: &[(&str, &str)] = &[
        ("{= berths / (berths - 4) =}", "division-by-zero"),
        ("{= 9223372036854775807 + berths =}", "overflow"),
        ("{= piers.at(3) =}", "outside-list"),
        ("{= none.first =}", "outside-list"),
        ("{= piers.take(-1).len =}", "bad-argument"),
        ("{= pier.pad(99999) =}", "bad-argument"),
        ("{= pier.replace(pier.take, '') =}", "unknown-view"),
        ("{= pier.split(pier.replace(pier, '')).len =}", "bad-argument"),
    ];
    for (source, code) in cases {
        let findings = world.render(source).expect_err(source);
        assert_eq!(findings[0].code.as_str(), *code, "{source}");
    }
    let doubled: String = (0..40).map(|n| format!("{{= let v{} = v{n} + v{n} =}}", n + 1)).collect();
    let bomb = format!("{{= let v0 = pier =}}{doubled}{{= v40.len =}}");
    assert_eq!(world.render(&bomb).unwrap_err()[0].code.as_str(), "limit-reached");
    let nested: String = (0..20).map(|n| format!("{{= for a{n} in piers =}}")).collect();
    let nested = format!("{nested}{}", "{= end =}".repeat(20));
    assert_eq!(world.render(&nested).unwrap_err()[0].code.as_str(), "limit-reached");
}

#[test]
fn what_rounds_make_is_charged_once() {
    let mut world = World::new();
    let large = "x".repeat(5000);
    let id = world.scope.find("pier").unwrap();
    world.values.set(&world.scope, id, Value::Text(large.clone())).unwrap();
    // A hundred rounds of a large text, and one of many small ones: the limit of the tests is a
    // mebibyte.
    let rounds =
        |count: usize| format!("{{= for n in [{}] =}}{{= pier =}}{{= end =}}", vec!["1"; count].join(", "));
    assert_eq!(world.render(&rounds(190)).map(|text| text.len()), Ok(950_000));
    assert_eq!(world.render(&rounds(220)).unwrap_err()[0].code.as_str(), "limit-reached");
    let small =
        format!("{{= for n in [{}] =}}{}{{= end =}}", vec!["1"; 100].join(", "), "ten bytes ".repeat(1000));
    assert_eq!(world.render(&small).map(|text| text.len()), Ok(1_000_000));
    assert_eq!(world.render(&small.repeat(2)).unwrap_err()[0].code.as_str(), "limit-reached");
}

#[test]
fn what_a_renderer_remembers_holds_where_it_was_met() {
    let mut world = World::new();
    let note = world.scope.find("note_text").unwrap();
    world.values.set(&world.scope, note, Value::Text("one\ntwo".into())).unwrap();
    let (scope, values) = (&world.scope, &world.values);
    let budget = Budget::default();
    let mut renderer = Renderer::new(scope, values, &budget, 1000);
    let (usual, other) = (Marks::default(), Marks::new("<%", "%>").unwrap());
    type Case<'c> = (&'c str, bool, &'c Marks, &'c str, Result<&'c str, &'c str>);
    let cases: &[Case<'_>] = &[
        ("a.txt", false, &usual, "{= note_text =}!", Ok("one\ntwo!")),
        // The same tag with indentation, in a branch that is not taken, and in another one.
        ("a.txt", false, &usual, "  {= note_text =}\n", Ok("  one\n  two\n")),
        ("a.txt", false, &usual, "{= if not night =}{= note_text =}{= else =}-{= end =}", Ok("-")),
        (
            "a.txt",
            false,
            &usual,
            "{= if night =}{= if not night =}x{= end =}{= note_text =}{= end =}",
            Ok("one\ntwo"),
        ),
        // A tag in a text is text; other marks have tags of their own.
        ("a.txt", false, &other, "{= note_text =}<% pier %>", Ok("{= note_text =}gull point")),
        ("a.txt", false, &usual, "{= \"{= note_text =}\" =}<% pier %>", Ok("{= note_text =}<% pier %>")),
        // A tag that is legal in one kind of file may not be in another.
        ("a.env", true, &usual, "{= secret =}", Ok("s3cr3t")),
        ("a.env", false, &usual, "{= secret =}", Err("minted-outside-local")),
        ("a.env", true, &usual, "{= secret =}", Ok("s3cr3t")),
        // Remembered tags do not replace incomplete blocks.
        ("a.txt", false, &usual, "{= if night =}x", Err("unclosed-block")),
        ("a.txt", false, &usual, "x{= end =}", Err("stray-tag")),
        ("a.txt", false, &usual, "{= if night =}a{= else =}b{= else =}c{= end =}", Err("stray-tag")),
        ("a.txt", false, &usual, "{= if night =}a{= else =}b{= else if night =}c{= end =}", Err("stray-tag")),
        // A mistake that fails only when it is reached.
        ("a.txt", false, &usual, "{= if night =}a{= else =}{= berths / (berths - 4) =}{= end =}", Ok("a")),
        ("a.txt", false, &usual, "{= berths / (berths - 4) =}", Err("division-by-zero")),
        ("a.json", false, &usual, "[{= berths =}, {= if night =}1,{= end =}]", Ok("[4, 1]")),
    ];
    for (file, local, marks, source, expected) in cases {
        let syntax = tinmold_notation::Syntax::of_path(file);
        let setting = Setting { marks, syntax, local: *local, ..Setting::default() };
        let mut out = Vec::new();
        let rendered =
            renderer.render(file, source, &setting, &mut out).map(|()| String::from_utf8(out).unwrap());
        let rendered = rendered.map_err(|findings| findings[0].code.as_str());
        assert_eq!(rendered.as_deref().map_err(|code| *code), *expected, "{source}");
    }
    // More tags than are remembered, in one source.
    let many: String = (0..2500).map(|n| format!("{{= berths + {n} =}} ")).collect();
    let sums: String = (4..2504).map(|n| format!("{n} ")).collect();
    assert_eq!(World::new().render(&many), Ok(sums));
    // Indentation is paid for before it is rendered.
    let lines = "x\n".repeat(2000);
    let mut world = World::new();
    world.values.set(&world.scope, note, Value::Text(lines)).unwrap();
    let wide = format!("{}{{= note_text =}}\n", " ".repeat(1000));
    assert_eq!(world.render(&wide).unwrap_err()[0].code.as_str(), "limit-reached");
}

#[test]
fn expressions_stand_alone_too() {
    let world = World::new();
    let setting = Setting::default();
    let program =
        compile_expression("when", "piers.take(2) + ['x']", &world.scope, &setting, None).program.unwrap();
    let value = program.evaluate(&world.values, &Budget::default());
    let texts = ["Gull Point", "Heron Stairs", "x"].map(|text| Value::Text(text.into()));
    assert_eq!(value, Ok(Value::List(texts.to_vec())));
    let broken = compile_expression("when", "night extra", &world.scope, &setting, None);
    assert_eq!(broken.findings[0].code.as_str(), "unexpected");
    let other = Values::new(&Scope::new());
    assert!(other.get(world.scope.find("pier").unwrap()).is_none());
}
