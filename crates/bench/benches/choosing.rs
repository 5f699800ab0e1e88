//! How long a keystroke takes while a mold is chosen: `benches/shelves` runs this with the indexes that it made.
//!
//! A keystroke is a letter typed, or a mistyped word's, or a narrowing; and what is then shown of the list.
#![allow(clippy::unwrap_used, missing_docs)]

use std::path::Path;
use std::time::{Duration, Instant};
use tinmold_shelf::{Catalogue, Facet, Picker};

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
        let mut picker = Picker::new(vec![catalogue], &recent);
        let mut times: Vec<(Duration, String)> = Vec::new();
        let mut stroke = |picker: &mut Picker, what: &str, press: &dyn Fn(&mut Picker)| {
            let begun = Instant::now();
            press(picker);
            let shown = (0..LINES.min(picker.found())).filter(|at| picker.mold(*at).is_ok()).count();
            times.push((begun.elapsed(), what.to_owned()));
            assert_eq!(shown, LINES.min(picker.found()));
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
                    stroke(&mut picker, &words[..end], &|picker| picker.set_text(&words[..end]));
                }
            }
            for by in Facet::ALL {
                stroke(&mut picker, by.name(), &|picker| assert!(!picker.values(by).is_empty()));
            }
            stroke(&mut picker, "narrow", &|picker| picker.narrow(Facet::Language, "rust"));
            stroke(&mut picker, "widen", &|picker| picker.narrow(Facet::Language, ""));
        }
        times.sort();
        let at = |hundredth: usize| {
            times[(times.len() * hundredth / 100).min(times.len() - 1)].0.as_secs_f64() * 1000.0
        };
        let molds = picker.all();
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
