//! Joints: marked lines in a file, above which parts add lines.
//!
//! A joint is a line with `joint: NAME (tinmold)` in a comment of any language. Lines are inserted
//! above it, with its indentation, once. Blank lines directly above it stay between.

use super::text::Text;
use regex::Regex;

/// The word before a joint's name.
const WORD: &str = "joint:";
/// The mark after a joint's name.
const OWNER: &str = "(tinmold)";

/// Returns a joint as it is written in a comment: `joint: NAME (tinmold)`.
#[must_use]
pub fn label(name: &str) -> String {
    format!("{WORD} {name} {OWNER}")
}

/// The result of inserting lines at a joint.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Put {
    /// The file with them.
    Changed(String),
    /// The file holds them already.
    Same,
    /// The file has no such joint.
    NoJoint,
    /// The file has several such joints: their line numbers, from 1.
    Several(Vec<usize>),
}

/// Returns the block of the file that is about the same as `block` and another one, as `same` says: its first line
/// and its lines. White space does not count.
pub fn other_block(text: &str, block: &str, same: &Regex) -> Option<(usize, Vec<String>)> {
    let squeezed = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let about = squeezed(same.find(block)?.as_str());
    let wanted: Vec<&str> = block.trim().lines().collect();
    let lines: Vec<&str> = text.lines().collect();
    let first = wanted.first()?.trim();
    let is_same = |found: &[&str]| found.iter().zip(&wanted).all(|(a, b)| a.trim() == b.trim());
    same.find_iter(text).filter(|found| squeezed(found.as_str()) == about).find_map(|found| {
        let at = text[..found.start()].matches('\n').count();
        // The block begins with the line that begins the new one.
        let start = (0..=at).rev().find(|line| lines[*line].trim() == first).unwrap_or(at);
        let there = lines.get(start..start + wanted.len()).unwrap_or_else(|| &lines[start..]);
        let is_whole = there.last().map(|line| line.trim()) == wanted.last().map(|line| line.trim());
        let there = if is_whole || wanted.len() == 1 { there } else { &lines[at..=at] };
        (!is_same(there) || there.len() != wanted.len())
            .then(|| (start, there.iter().map(|line| (*line).to_owned()).collect()))
    })
}

/// Returns the names of the joints on a line.
fn names(line: &str) -> impl Iterator<Item = &str> {
    line.match_indices(WORD).filter_map(|(at, _)| {
        let is_word = !line[..at].ends_with(|c: char| c.is_ascii_alphanumeric() || c == '_' || c == '-');
        let rest = line[at + WORD.len()..].trim_start();
        let end = rest.find(|c: char| !c.is_ascii_alphanumeric() && c != '-')?;
        let (name, rest) = rest.split_at(end);
        (is_word && !name.is_empty() && rest.trim_start().starts_with(OWNER)).then_some(name)
    })
}

fn is_joint(line: &str, name: &str) -> bool {
    names(line).any(|found| found == name)
}

/// Returns the numbers of the lines that hold the joint, from 1.
pub fn places(text: &str, name: &str) -> Vec<usize> {
    text.lines().enumerate().filter(|(_, line)| is_joint(line, name)).map(|(at, _)| at + 1).collect()
}

/// Puts `blocks`, each a line or several, above the joint; in order among the lines there if `sorted`.
pub fn put(text: &str, name: &str, blocks: &[String], sorted: bool) -> Put {
    let file = Text::new(text);
    let own = file.lines();
    let joints: Vec<usize> = (0..own.len()).filter(|at| is_joint(own[*at], name)).collect();
    let at = match joints.as_slice() {
        [] => return Put::NoJoint,
        [at] => *at,
        several => return Put::Several(several.iter().map(|at| at + 1).collect()),
    };
    let indentation = indentation(own[at]);
    let tabs = indentation.contains('\t') || (indentation.is_empty() && file.uses_tabs());
    let mut lines: Vec<String> = own.iter().map(|line| (*line).to_owned()).collect();
    let mut at = own[..at].iter().rposition(|line| !line.trim().is_empty()).map_or(at, |last| last + 1);
    let before = lines.len();
    for block in blocks.iter().filter(|block| !block.trim().is_empty()) {
        let new: Vec<String> = block.lines().map(str::to_owned).collect();
        if holds(&lines, &new) {
            continue;
        }
        let new = indented(&new, indentation, tabs);
        let place = if sorted { in_order(&lines, at, &new[0], indentation) } else { at };
        at += new.len();
        lines.splice(place..place, new);
    }
    if lines.len() == before {
        return Put::Same;
    }
    let new: Vec<&str> = lines.iter().map(String::as_str).collect();
    Put::Changed(file.with_lines(&new))
}

/// Returns the text with other lines in place of `count` lines, in the indentation that is there.
#[must_use]
pub fn replaced(text: &str, start: usize, count: usize, block: &str) -> String {
    let file = Text::new(text);
    let own = file.lines();
    let indentation = own.get(start).map_or("", |line| indentation(line));
    let new: Vec<String> = block.trim_end().lines().map(str::to_owned).collect();
    let new = indented(&new, indentation, indentation.contains('\t'));
    let mut lines: Vec<&str> = own[..start.min(own.len())].to_vec();
    lines.extend(new.iter().map(String::as_str));
    lines.extend(own.get(start + count..).unwrap_or_default());
    file.with_lines(&lines)
}

fn indentation(line: &str) -> &str {
    &line[..line.len() - line.trim_start().len()]
}

/// Returns true if the file holds the lines one after another, whatever their indentation.
fn holds(lines: &[String], block: &[String]) -> bool {
    lines.windows(block.len()).any(|there| there.iter().zip(block).all(|(a, b)| a.trim() == b.trim()))
}

/// Replaces the block's own indentation by that of the joint; deeper indentation keeps the file's
/// style.
fn indented(block: &[String], indentation: &str, tabs: bool) -> Vec<String> {
    let filled = || block.iter().filter(|line| !line.trim().is_empty());
    let depth = |line: &String| line.len() - line.trim_start().len();
    let own = filled().map(depth).min().unwrap_or(0);
    let unit = filled().map(|line| depth(line) - own).filter(|depth| *depth > 0).min().unwrap_or(1);
    block
        .iter()
        .map(|line| {
            if line.trim().is_empty() {
                return String::new();
            }
            let further = &line[own..line.len() - line.trim_start().len()];
            let further = match tabs && !further.contains('\t') {
                true => "\t".repeat(further.len() / unit) + &" ".repeat(further.len() % unit),
                false => further.to_owned(),
            };
            format!("{indentation}{further}{}", line.trim_start())
        })
        .collect()
}

/// Returns the position of a line among those directly above the joint, up to a blank line or one
/// with another indentation.
fn in_order(lines: &[String], joint: usize, new: &str, indented: &str) -> usize {
    let mut at = joint;
    while at > 0 {
        let above = &lines[at - 1];
        let ends = above.trim().is_empty() || indentation(above) != indented || names(above).next().is_some();
        if ends || above.as_str() <= new {
            break;
        }
        at -= 1;
    }
    at
}
