//! How long a keystroke takes while a project is set up: a mold of 1,000 files and 100 questions.
//!
//! A keystroke is an answer given or an option looked at; with it come all answers that follow, what comes out, and
//! what every option of the question would change.

#![allow(missing_docs, clippy::unwrap_used)]

use std::fmt::Write;
use std::time::{Duration, Instant};
use tinmold_mold::{Content, File, Mold, Origin, Package};
use tinmold_project::answers::{BuiltIns, Offers, Session};
use tinmold_project::outcome::{Effect, Forecast};
use tinmold_project::plan::Limits;
use tinmold_project::setup::Setup;

const FILES: usize = 1_000;
const QUESTIONS: usize = 100;

fn main() {
    println!("| keystroke | times | median | 99th percentile | longest |");
    println!("|---|---|---|---|---|");
    let mold = mold();
    let begun = Instant::now();
    let forecast = Forecast::new(&mold, Limits::default());
    let session =
        Session::new(&mold, vec![None; mold.questions.len()], Offers::default(), BuiltIns::on("2026-11-23"));
    let mut setup = Setup::new(session.unwrap());
    let mut now = forecast.outcome(&setup.session().preview(), &|| false).unwrap().unwrap();
    println!("| the first outcome | 1 | {} | | |", shown(begun.elapsed()));
    let mut times = Vec::new();
    for question in 0..QUESTIONS {
        if !question.is_multiple_of(2) {
            continue;
        }
        for round in 0..6 {
            let begun = Instant::now();
            let options = setup.alternatives(question);
            for option in &options {
                let answers = setup.answers_with(question, option.value.clone()).unwrap();
                let after = forecast.outcome(&answers, &|| false).unwrap().unwrap();
                assert!(Effect::between(&now, &after).files.len() <= FILES);
            }
            let taken = options[round % options.len()].value.clone();
            setup.pick(question, taken).unwrap();
            now = forecast.outcome(&setup.session().preview(), &|| false).unwrap().unwrap();
            times.push(begun.elapsed());
        }
    }
    line("an option taken, with the effects of all", times);
    // The name stands in four files of five.
    let mut times = Vec::new();
    for question in [1, 3] {
        for length in 1..=60 {
            let text = "harbour-times-of-saltmarsh-ferries-at-gull-point-and-tern-quay";
            let begun = Instant::now();
            setup.type_text(question, &text[..length].trim_end_matches('-').replace('-', "x")).unwrap();
            times.push(begun.elapsed());
        }
    }
    line("a letter typed, with the answers that follow", times);
    let mut times = Vec::new();
    for length in 1..=60 {
        let text = "harbourtimesofsaltmarshferriesatgullpointandternquayandback";
        setup.type_text(1, &text[..length.min(text.len())]).unwrap();
        let begun = Instant::now();
        now = forecast.outcome(&setup.session().preview(), &|| false).unwrap().unwrap();
        times.push(begun.elapsed());
    }
    assert_eq!(now.count(), FILES);
    line("what comes out after a letter of the name, which is in four files of five", times);
}

fn mold() -> Mold {
    let mut manifest =
        "[mold]\nname = \"thousand\"\nversion = \"1.0.0\"\nsummary = \"A thousand files\"\n".to_owned();
    for question in 0..QUESTIONS {
        let _ = write!(manifest, "[[question]]\nkey = \"q{question}\"\nask = \"Question {question}\"\n");
        if question.is_multiple_of(2) {
            let _ = writeln!(manifest, "kind = \"one-of\"\ndefault = \"o0\"");
            for option in 0..6 {
                let _ =
                    write!(manifest, "[[question.option]]\nvalue = \"o{option}\"\nlabel = \"{option}\"\n");
            }
        } else {
            let before = question.saturating_sub(2);
            let default = if question < 4 { "tides".into() } else { format!("{{= q{before} =}}x") };
            let _ = writeln!(manifest, "kind = \"text\"\nform = \"kebab\"\ndefault = \"{default}\"");
        }
    }
    let mut files: Vec<File> = (0..FILES)
        .map(|file| {
            let (option, text) = (file % 50 * 2, if file % 5 == 0 { 3 } else { 1 });
            let mut body = format!(
                "# {{= q{text} =}}\n# {{= if q{option} == 'o1' =}}\nline {file}\n# {{= end =}}\n{{= q{option} =}}\n"
            );
            while body.len() < 2048 {
                body += "A line that stays as it is, whatever is answered.\n";
            }
            File::new(format!("body/{}/{file}.txt", file % 40), Content::Held(body.into_bytes().into()), 0o644)
        })
        .collect();
    files.push(File::new("mold.toml".to_owned(), Content::Held(manifest.into_bytes().into()), 0o644));
    files.sort_by(|a, b| a.path.cmp(&b.path));
    Mold::load(Package::new(Origin::BuiltIn("thousand".into()), files).unwrap()).unwrap()
}

fn line(what: &str, mut times: Vec<Duration>) {
    times.sort();
    let at = |share: usize| shown(times[(times.len() * share / 100).min(times.len() - 1)]);
    println!("| {what} | {} | {} | {} | {} |", times.len(), at(50), at(99), at(100));
}

fn shown(time: Duration) -> String {
    format!("{:.1} ms", time.as_secs_f64() * 1e3)
}
