//! Sets of answers: every two choices that go together meet in one, and there are few.
#![allow(clippy::unwrap_used)]

#[path = "../../project/tests/common/mod.rs"]
mod common;

use common::mold;
use std::collections::HashSet;
use tinmold_author::{AnswerSet, combinations};

/// The sets as `key=text`, without that of the defaults.
fn sets(manifest: &str, strength: usize) -> Vec<Vec<String>> {
    let mold = mold(manifest, &[("body/a", "")]);
    let all = combinations(&mold, strength).unwrap();
    assert!(all[0].is_empty(), "the defaults alone are a set");
    let shown =
        |set: &AnswerSet| set.answers.iter().map(|(key, text)| format!("{key}={text}")).collect::<Vec<_>>();
    all[1..].iter().map(shown).collect()
}

fn one_of(key: &str, options: &[&str], more: &str) -> String {
    let options: Vec<String> = options.iter().map(|value| format!("{{ value = \"{value}\" }}")).collect();
    format!(
        "[[question]]\nkey = \"{key}\"\nask = \"?\"\nkind = \"one-of\"\noption = [{}]\n{more}\n",
        options.join(", ")
    )
}

#[test]
fn every_two_choices_meet() {
    let keys = ["pier", "boat", "crew", "tide", "fare"];
    let options = ["a", "b", "c"];
    let manifest: String = keys.iter().map(|key| one_of(key, &options, "")).collect();
    let (triples, sets) = (sets(&manifest, 3), sets(&manifest, 2));
    for (at, one) in keys.iter().enumerate() {
        for other in &keys[at + 1..] {
            for a in options {
                for b in options {
                    let wanted = [format!("{one}={a}"), format!("{other}={b}")];
                    let met = sets.iter().any(|set| wanted.iter().all(|choice| set.contains(choice)));
                    assert!(met, "{wanted:?} never meet");
                }
            }
        }
    }
    // All 243 would be too many; nine is the least that there can be.
    assert!((9..=18).contains(&sets.len()), "{} sets", sets.len());
    assert_eq!(sets.iter().collect::<HashSet<_>>().len(), sets.len(), "a set comes twice");
    let has = |set: &Vec<String>, wanted: &[String]| wanted.iter().all(|choice| set.contains(choice));
    for three in
        [["pier=a", "boat=b", "crew=c"], ["boat=c", "tide=a", "fare=b"], ["pier=c", "crew=c", "fare=c"]]
    {
        let wanted = three.map(str::to_owned);
        assert!(triples.iter().any(|set| has(set, &wanted)), "{wanted:?} never meet");
    }
    assert!((27..=70).contains(&triples.len()), "{} sets of triples", triples.len());
}

#[test]
fn what_does_not_go_together_is_left_out() {
    let manifest = one_of("web", &["none", "full"], "")
        + &one_of("port", &["low", "high"], "when = \"web == 'full'\"")
        + "[[question]]\nkey = \"extras\"\nask = \"?\"\nkind = \"some-of\"\noption = [{ value = \"file\" }, { value = \"compose\", requires = [\"file\"] }, { value = \"bare\", excludes = [\"file\"] }, { value = \"tls\", when = \"web == 'full'\" }]\n"
        + "[[question]]\nkey = \"quick\"\nask = \"?\"\nkind = \"flag\"\n[[question]]\nkey = \"name\"\nask = \"?\"\nkind = \"text\"\nform = \"kebab\"\ndefault = \"x\"\n";
    let sets = sets(&manifest, 2);
    for set in &sets {
        let has = |text: &str| set.iter().any(|choice| choice.contains(text));
        assert!(!has("name="), "a text is no choice: {set:?}");
        assert_eq!(has("port="), has("web=full"), "{set:?}");
        assert!(!has("compose") || has("file"), "{set:?}");
        assert!(!(has("bare") && has("file")), "{set:?}");
    }
    for wanted in [
        ["web=full", "port=low"],
        ["web=none", "quick=true"],
        ["port=high", "quick=false"],
        ["web=full", "tls"],
    ] {
        let met =
            |set: &Vec<String>| wanted.iter().all(|text| set.iter().any(|choice| choice.contains(text)));
        assert!(sets.iter().any(met), "{wanted:?} never meet in {sets:?}");
    }
}

#[test]
fn a_long_list_with_options_that_exclude_each_other_makes_few_sets() {
    let options: Vec<String> = (0..40).map(|at| format!("{{ value = \"o{at}\" }}")).collect();
    let manifest = one_of("build", &["make", "maven"], "")
        + "[[question]]\nkey = \"libraries\"\nask = \"?\"\nkind = \"some-of\"\nwhen = \"build == 'maven'\"\n"
        + "option = [{ value = \"one\" }, { value = \"two\", excludes = [\"one\"] }, { value = \"new\", when = \"build == 'make'\" }, "
        + &options.join(", ")
        + "]\n";
    let sets = sets(&manifest, 2);
    assert!(sets.len() < 40, "{} sets", sets.len());
    let ticked = |set: &[String]| -> Vec<String> {
        let libraries = set.iter().find_map(|answer| answer.strip_prefix("libraries="));
        libraries.unwrap_or_default().split(',').map(|it| it.trim().to_owned()).collect()
    };
    for wanted in [["one", "o0"], ["two", "o39"], ["o7", "o31"]] {
        let met = |set: &Vec<String>| wanted.iter().all(|it| ticked(set).contains(&(*it).to_owned()));
        assert!(sets.iter().any(met), "{wanted:?} never meet");
    }
}

#[test]
fn few_choices_make_few_sets() {
    assert!(sets("", 2).is_empty());
    assert_eq!(sets(&one_of("pier", &["a", "b", "c"], ""), 2).len(), 3);
    assert_eq!(sets("[[question]]\nkey = \"quick\"\nask = \"?\"\nkind = \"flag\"\n", 2).len(), 2);
    // A text that may be empty is tried with nothing too.
    let text =
        "[[question]]\nkey = \"remark\"\nask = \"?\"\nkind = \"text\"\noptional = true\nform = \"plain\"\n";
    assert_eq!(sets(text, 2), [["remark=sample"], ["remark="]]);
}
