//! docs/notation.md is correct: every example renders as shown, and every code has its section.

#![allow(clippy::unwrap_used)]

mod common;
use common::World;
use tinmold_notation::{Budget, Code, Finding, Setting, compile_name};

/// A fenced block: its info string, the heading of its section, its text.
struct Fence {
    info: String,
    section: String,
    text: String,
}

fn fences(page: &str) -> Vec<Fence> {
    let mut all: Vec<Fence> = Vec::new();
    let (mut section, mut inside) = (String::new(), false);
    for line in page.lines() {
        match line.strip_prefix("```") {
            Some(info) if !inside => {
                inside = true;
                all.push(Fence { info: info.to_owned(), section: section.clone(), text: String::new() });
            }
            Some(_) => inside = false,
            None if inside => {
                let text = &mut all.last_mut().expect("a fence is open").text;
                *text += line;
                text.push('\n');
            }
            None => {
                if let Some(heading) = line.strip_prefix("### ") {
                    section = heading.to_owned();
                }
            }
        }
    }
    all
}

fn outcome(world: &mut World, fence: &Fence) -> Result<String, Vec<Finding>> {
    let place = fence.info.split("in=").nth(1).unwrap_or("sign.txt");
    if place == "name" {
        let setting = Setting::for_name();
        let compiled = compile_name("body", fence.text.trim_end(), &world.scope, &setting);
        return match compiled.program {
            Some(program) => {
                let name = program.render_text(&world.values, &Budget::default());
                name.map(|name| name + "\n").map_err(|finding| vec![finding])
            }
            None => Err(compiled.findings),
        };
    }
    world.file = place.to_owned();
    let times = fence.info.split("times=").nth(1).map_or(1, |times| times.parse().unwrap());
    let source = fence.text.repeat(times);
    let warnings = world.compiled(&source, |compiled| compiled.findings);
    if !warnings.is_empty() { Err(warnings) } else { world.render(&source) }
}

#[test]
fn the_page_is_true() {
    let page = include_str!("../../../docs/notation.md");
    let fences = fences(page);
    let mut world = World::new();
    let mut outputs = 0;
    for (at, fence) in fences.iter().enumerate().filter(|(_, fence)| fence.info.starts_with("notation")) {
        let found = outcome(&mut world, fence);
        if fence.info.contains("mistake") {
            let codes: Vec<_> =
                found.expect_err(&fence.text).iter().map(|finding| finding.code.as_str()).collect();
            assert!(codes.contains(&fence.section.as_str()), "{}: {codes:?}", fence.section);
        } else {
            let output = fences.get(at + 1).filter(|next| next.info == "output").expect("an output follows");
            assert_eq!(found.as_deref(), Ok(output.text.as_str()), "{}", fence.text);
            outputs += 1;
        }
    }
    assert!(outputs > 10, "{outputs} examples");
    for code in Code::ALL {
        assert!(page.contains(&format!("\n### {code}\n")), "{code} has no section");
        assert!(fences.iter().any(|fence| fence.section == code.as_str()), "{code} has no example");
    }
}
