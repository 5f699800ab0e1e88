//! Man pages of all commands.

use crate::args::Args;
use crate::exit::Exit;
use clap::{Command, CommandFactory};
use clap_mangen::Man;
use std::fs;
use std::io::{self, Write};
use std::path::Path;

/// Writes a page for the program and for each command to a folder, which is made if it is not there;
/// returns the number of pages.
///
/// # Errors
/// A page cannot be written.
pub fn write(folder: &Path) -> io::Result<usize> {
    fs::create_dir_all(folder)?;
    let mut program = Args::command();
    program.build();
    write_page(&program, "tinmold", folder)
}

/// Writes the page of a command of this full name, and those of its commands.
fn write_page(command: &Command, name: &str, folder: &Path) -> io::Result<usize> {
    let version = env!("CARGO_PKG_VERSION");
    // The page is called like its file; the line to type has spaces.
    let typed = name.replace('-', " ");
    let shown = command.clone().name(name.to_owned()).bin_name(typed).version(version);
    let usage = shown.clone().render_usage().to_string();
    let examples = shown.get_after_help().map(ToString::to_string).unwrap_or_default();
    let has_commands = shown.has_subcommands();
    let man =
        Man::new(shown).title(name.to_uppercase()).source(format!("tinmold {version}")).manual("Tin Mold");
    let mut page = Vec::new();
    man.render_title(&mut page)?;
    man.render_name_section(&mut page)?;
    writeln!(page, ".SH SYNOPSIS\n{}", escaped(usage.trim_start_matches("Usage: ")))?;
    man.render_description_section(&mut page)?;
    man.render_options_section(&mut page)?;
    if has_commands {
        man.render_subcommands_section(&mut page)?;
    }
    page.extend(more_sections(&examples).into_bytes());
    fs::write(folder.join(format!("{name}.1")), page)?;
    let mut written = 1;
    for inner in command.get_subcommands() {
        written += write_page(inner, &format!("{name}-{}", inner.get_name()), folder)?;
    }
    Ok(written)
}

/// Returns the sections with examples and exit codes.
fn more_sections(examples: &str) -> String {
    // The examples hold colours for the terminal.
    let examples = anstream::adapter::strip_str(examples).to_string();
    let mut out = String::new();
    let lines: Vec<&str> = examples.lines().skip(1).map(str::trim).collect();
    if !lines.is_empty() {
        out += ".SH EXAMPLES\n";
    }
    for pair in lines.chunks(2) {
        let does = pair.get(1).copied().unwrap_or_default();
        out += &format!(".TP\n\\fB{}\\fR\n{}\n", escaped(pair[0]), escaped(does));
    }
    out += ".SH EXIT STATUS\n";
    for exit in Exit::ALL {
        out += &format!(".TP\n\\fB{}\\fR\n{}\n", exit as u8, escaped(exit.means()));
    }
    out
}

/// Escapes a line for roff, by groff_man(7).
fn escaped(text: &str) -> String {
    let text = text.replace('\\', "\\e").replace('-', "\\-").replace('`', "\\(ga").replace('\'', "\\(aq");
    if text.starts_with('.') { format!("\\&{text}") } else { text }
}
