//! On whose account every byte of an output is.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::World;
use tinmold_notation::{Setting, Syntax, origin, trace};

/// The names of a run, values first: `pier|night`.
fn names(
    world: &World,
    values: &[tinmold_notation::NameId],
    conditions: &[tinmold_notation::NameId],
) -> String {
    let shown = |ids: &[tinmold_notation::NameId]| {
        ids.iter().map(|id| world.scope.name(*id).name.clone()).collect::<Vec<_>>().join(" ")
    };
    format!("{}|{}", shown(values), shown(conditions))
}

#[test]
fn values_and_conditions_are_told_apart() {
    let mut world = World::new();
    // The file, the source, a part of the output, and the names that it is on the account of.
    let cases = [
        ("a.txt", "x {= pier =} y", "y", "|"),
        ("a.txt", "x {= pier.upper =} y", "GULL", "pier|"),
        ("a.txt", "{= pier + berths.text =}", "gull", "pier berths|"),
        ("a.txt", "{= if not night =}dark{= else =}light {= pier =}{= end =}", "light", "|night"),
        ("a.txt", "{= if not night =}dark{= else =}light {= pier =}{= end =}", "gull", "pier|night"),
        ("a.txt", "{= if not night =}a{= else if berths > 3 =}b{= end =}c", "b", "|berths night"),
        ("a.txt", "{= if not night =}a{= else if berths > 3 =}b{= end =}c", "c", "|"),
        ("a.txt", "{= let wide = berths * 2 =}{= wide =} m", "8", "berths|"),
        ("a.txt", "{= for p in piers =}<{= p =}>{= end =}", "<", "|piers"),
        ("a.txt", "{= for p in piers =}<{= p =}>{= end =}", "Osier", "piers|piers"),
        ("a.txt", "{= for p in piers if night or p.has(\"O\") =}<{= p =}>{= end =}", "<", "|night piers"),
        ("a.txt", "{= if pier == \"x\" then berths.text else pier =}", "gull", "pier berths|"),
        ("a.txt", "{= match web =}{= case \"stdlib\" =}plain{= else =}web{= end =}", "web", "|web"),
        ("a.txt", "a\n{= place \"nested\" =}\nz", "Heron", "piers|"),
        ("a.txt", "a\n{= place \"nested\" =}\nz", "z", "|"),
        ("a.json", "[1,{= if night =}2,{= end =}\n], {= berths =}", "2", "|night"),
        ("a.json", "[1,{= if night =}2,{= end =}\n], {= berths =}", "4", "berths|"),
    ];
    for (file, source, piece, expected) in cases {
        world.file = file.into();
        let setting =
            Setting { fragments: &world.fragments, syntax: Syntax::of_path(file), ..Setting::default() };
        let Some(trace) = trace(file, source, &world.scope, &setting, &world.values) else {
            panic!("{source:?} has a mistake");
        };
        let output = String::from_utf8(trace.text.clone()).unwrap();
        let at = output.find(piece).unwrap_or_else(|| panic!("{piece:?} is in {output:?}"));
        let run = trace.runs.iter().find(|run| run.bytes.contains(&at)).unwrap();
        assert_eq!(names(&world, &run.values, &run.conditions), expected, "{source:?} {piece:?}");
        assert_eq!(output, world.render(source).unwrap());
    }
    // An output of very many pieces has no trace, and each byte of it an origin still.
    let list = format!("{{= let l = \"{}\".split(\",\") =}}", "a,".repeat(1_099) + "a");
    let many =
        format!("{list}{{= for a in l =}}{{= for b in l =}}{{= a =}}{{= end =}}{{= end =}}{{= pier =}}");
    let setting = Setting::default();
    assert!(trace("a.txt", &many, &world.scope, &setting, &world.values).is_none());
    let last = origin("a.txt", &many, &world.scope, &setting, &world.values, 1_210_003).unwrap();
    assert_eq!(last.of(&many), "pier");
    for broken in ["{= nobody =}", "{= if night =}", "{= 1 / 0 =}"] {
        assert!(
            trace("a.txt", broken, &world.scope, &Setting::default(), &world.values).is_none(),
            "{broken}"
        );
    }
}
