//! How long a keystroke takes in the choosing of a mold: `benches/shelves` runs this with the indexes that it made.
//!
//! A keystroke is a letter typed, or a mistyped word's, or a narrowing; and what is then shown of the list.
#![allow(clippy::unwrap_used, missing_docs)]

use std::path::Path;
use std::time::{Duration, Instant};
use tinmold_shelf::catalogue::{Catalogue, Choosing, Narrowing};

/// Lines of a large terminal.
const LINES: usize = 60;

fn main() {
    println!("| molds | keystrokes | median | 99th percentile | longest | which |");
    println!("|---|---|---|---|---|---|");
    for path in std::env::args().skip(1).filter(|argument| argument.ends_with(".json")) {
        let index = std::fs::read_to_string(&path).unwrap();
        let catalogue = Catalogue::of_index("saltmarsh", &index, Path::new(&path)).unwrap();
        drop(index);
        let recent = vec!["saltmarsh/ferry-board-1".to_owned()];
        let mut choosing = Choosing::new(vec![catalogue], &recent);
        let mut times: Vec<(Duration, String)> = Vec::new();
        let mut stroke = |choosing: &mut Choosing, what: &str, press: &dyn Fn(&mut Choosing)| {
            let begun = Instant::now();
            press(choosing);
            let shown = (0..LINES.min(choosing.found())).filter(|at| choosing.mold(*at).is_ok()).count();
            times.push((begun.elapsed(), what.to_owned()));
            assert_eq!(shown, LINES.min(choosing.found()));
        };
        for _ in 0..5 {
            for words in [
                "ferry timetable",
                "tied bord rust",
                "e",
                "a s d",
                "osier island queue",
                "zeppelin",
                "departrue servcie",
            ] {
                for end in (1..=words.len()).chain((0..words.len()).rev()) {
                    stroke(&mut choosing, &words[..end], &|choosing| choosing.set_text(&words[..end]));
                }
            }
            for by in Narrowing::ALL {
                stroke(&mut choosing, by.name(), &|choosing| assert!(!choosing.values(by).is_empty()));
            }
            stroke(&mut choosing, "narrow", &|choosing| choosing.narrow(Narrowing::Language, "rust"));
            stroke(&mut choosing, "widen", &|choosing| choosing.narrow(Narrowing::Language, ""));
        }
        times.sort();
        let at = |hundredth: usize| {
            times[(times.len() * hundredth / 100).min(times.len() - 1)].0.as_secs_f64() * 1000.0
        };
        let molds = choosing.all();
        println!(
            "| {molds} | {} | {:.2} ms | {:.2} ms | {:.2} ms | {} |",
            times.len(),
            at(50),
            at(99),
            at(100),
            times[times.len() - 1].1
        );
        if std::env::var_os("STROKES").is_some() {
            times.dedup_by(|(_, a), (_, b)| a == b);
            times.iter().rev().take(40).for_each(|(time, what)| println!("{what:?} {time:?}"));
        }
    }
}
