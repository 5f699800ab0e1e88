//! Failures as the user sees them: what failed, where, why, and what to do next.

use crate::exit::Exit;
use crate::text::findings;
use crate::text::steps::consent;
use crate::text::style::{BOLD, ERROR, FAINT, plain, safe};
use std::fmt::Write;
use std::path::Path;
use tinmold_mold::{MoldError, Package, PackageError, built_in_names};
use tinmold_notation::{Finding, did_you_mean};
use tinmold_project::fit::FitError;
use tinmold_project::plan::{Plan, PlanError};
use tinmold_project::record::{RecordError, RecordMismatch};
use tinmold_project::steps::{ChoiceError, StepError};
use tinmold_project::verify::VerifyError;
use tinmold_project::write::WriteError;
use tinmold_project::write::cover::Uncovered;
use tinmold_shelf::{AddressError, NetworkError, ShelfError, SourceError};

/// Something that ends the program with another code than 0.
#[derive(Debug)]
pub struct Failure {
    /// The exit code.
    pub exit: Exit,
    text: String,
}

impl Failure {
    /// Makes a failure whose `message` is a clause without a full stop.
    pub fn new(exit: Exit, message: impl AsRef<str>) -> Self {
        Self { exit, text: format!("{ERROR}error:{ERROR:#} {BOLD}{}{BOLD:#}\n", safe(message.as_ref())) }
    }

    /// Adds a line that belongs to the message.
    #[must_use]
    pub fn line(mut self, line: impl AsRef<str>) -> Self {
        let _ = writeln!(self.text, "  {}", line.as_ref());
        self
    }

    /// Adds what to do about it.
    #[must_use]
    pub fn help(mut self, help: impl AsRef<str>) -> Self {
        if !help.as_ref().is_empty() {
            let _ = writeln!(self.text, "{FAINT}next:{FAINT:#}  {}", help.as_ref());
        }
        self
    }

    /// Makes the failure for mistakes of a mold, with their positions.
    pub fn findings(found: &[Finding], package: &Package) -> Self {
        let errors = found.iter().filter(|finding| finding.is_error()).count();
        let text = findings::rendered(found, package);
        let what = if errors == 1 { "a mistake" } else { "mistakes" };
        let summary =
            format!("{ERROR}error:{ERROR:#} {BOLD}the mold has {what}; nothing was written{BOLD:#}\n");
        Self { exit: Exit::Faulty, text: format!("{text}{summary}") }
    }

    /// Returns a failure that has been put into words already.
    pub fn shown(exit: Exit, text: String) -> Self {
        Self { exit, text }
    }

    /// Returns its lines without colours.
    pub fn lines(&self) -> Vec<String> {
        plain(&self.text).lines().map(str::to_owned).collect()
    }

    /// Prints it to standard error.
    pub fn print(&self) {
        say_text!("{}", self.text);
    }
}

impl From<PackageError> for Failure {
    fn from(error: PackageError) -> Self {
        let exit = match error {
            PackageError::NotAMold(_) | PackageError::Unknown { .. } => Exit::Usage,
            PackageError::NotUtf8(_)
            | PackageError::Special(_)
            | PackageError::ControlCharacter(_)
            | PackageError::TooLarge { .. }
            | PackageError::Archive { .. } => Exit::Faulty,
            PackageError::Changed(_) => Exit::Refused,
            PackageError::Io { .. } => Exit::Failed,
        };
        let failure = Self::new(exit, error.to_string());
        match error {
            PackageError::Changed(_) => failure.help("look at the mold again, then repeat the command"),
            PackageError::Unknown { name, nearest } => {
                let known: Vec<String> = built_in_names().map(str::to_owned).collect();
                unknown_mold(failure, &name, nearest.as_deref(), &known)
            }
            _ => failure,
        }
    }
}

impl From<ShelfError> for Failure {
    fn from(error: ShelfError) -> Self {
        let message = error.to_string();
        match error {
            ShelfError::Package(error) => error.into(),
            ShelfError::Address(AddressError::Url(url)) => Self::new(Exit::Usage, message)
                .help(format!("add an index as a shelf: tinmold shelf add NAME {}", safe(&url))),
            ShelfError::Address(AddressError::Secret) => Self::new(Exit::Usage, message).help(
                "keep those in .netrc, in git's credential store, or in a variable that --token-env names",
            ),
            ShelfError::Address(_) | ShelfError::UnknownVersion { .. } => Self::new(Exit::Usage, message),
            ShelfError::UnknownShelf { name, known } => {
                let all = format!("the shelves are {}", known.join(", "));
                let help = did_you_mean(&name, known.iter().map(String::as_str), all);
                Self::new(Exit::Usage, message).help(safe(&help))
            }
            ShelfError::UnknownMold { name, nearest, known } => {
                unknown_mold(Self::new(Exit::Usage, message), &name, nearest.as_deref(), &known)
            }
            ShelfError::Ambiguous { addresses, .. } => {
                let failure = Self::new(Exit::Usage, message);
                failure.help(format!("name one: {}", safe(&addresses.join(", "))))
            }
            ShelfError::Source { shelf, reason } => {
                let exit = if names_nothing(&shelf, &reason) { Exit::Usage } else { Exit::Failed };
                Self::new(exit, message)
            }
            ShelfError::Tampered { .. } => Self::new(Exit::Refused, message),
        }
    }
}

/// Returns true if the address names something that its server or repository does not have.
fn names_nothing(shelf: &str, reason: &SourceError) -> bool {
    match reason {
        // A file that a shelf's own index names is the shelf's fault.
        SourceError::Network { url, error: NetworkError::Status(404 | 410, _) } => shelf == url,
        SourceError::NoSuchMold { .. } | SourceError::SeveralMolds { .. } => true,
        _ => false,
    }
}

/// Adds what to do about a name that no mold has.
fn unknown_mold(failure: Failure, name: &str, nearest: Option<&str>, known: &[String]) -> Failure {
    let help = match nearest {
        Some(nearest) => format!("did you mean {nearest}?"),
        None if known.is_empty() => "search for it: tinmold find".to_owned(),
        None => format!("the molds are {}", known.join(", ")),
    };
    if Path::new(name).join("mold.toml").is_file() {
        return failure.help(safe(&format!("a mold is in the folder {name}; name its path: ./{name}")));
    }
    let end = if help.ends_with('?') { " The" } else { "; the" };
    failure.help(safe(&format!("{help}{end} path of a mold's folder begins with a dot: ./{name}")))
}

impl From<MoldError> for Failure {
    fn from(error: MoldError) -> Self {
        match error {
            MoldError::Package(error) => error.into(),
            MoldError::Faulty(faulty) => Self::findings(&faulty.findings, &faulty.package),
        }
    }
}

/// Returns a failure of verification.
pub fn of_verify(error: VerifyError, package: &Package) -> Failure {
    match error {
        VerifyError::Faulty(findings) => Failure::findings(&findings, package),
        VerifyError::Unsafe(all) => {
            let mut failure =
                Failure::new(Exit::Refused, "this mold would write where it must not; nothing was written");
            for found in &all {
                let line = format!("{:?} {} (from {})", found.path, found.reason, found.source);
                failure = failure.line(safe(&line));
            }
            failure.help("tell the mold's author, or give other answers")
        }
    }
}

/// Makes the failure of planning or rendering, with the sources of its spans.
pub fn of_plan(error: PlanError, package: &Package) -> Failure {
    match error {
        PlanError::Faulty(found) => Failure::findings(&found, package),
        PlanError::Package(error) => error.into(),
    }
}

/// Returns a failure of writing a plan. But for the last kind, nothing was written and nothing changed.
pub fn of_write(error: WriteError, plan: &Plan<'_>) -> Failure {
    match error {
        WriteError::Plan(error) => of_plan(error, &plan.mold.package),
        WriteError::Package(error) => error.into(),
        other => of_write_error(&other),
    }
}

/// Makes the same without a plan.
pub fn of_write_error(error: &WriteError) -> Failure {
    let nothing = |exit, error: &WriteError| Failure::new(exit, format!("{error}; nothing was written"));
    let listed = |failure: Failure, paths: &[String]| {
        paths.iter().fold(failure, |failure, path| failure.line(safe(path)))
    };
    match error {
        WriteError::Plan(_) => nothing(Exit::Faulty, error),
        WriteError::Package(_) => nothing(Exit::Failed, error),
        WriteError::NotAFolder(_) => nothing(Exit::InTheWay, error).help("name another folder"),
        WriteError::ArchiveExists(_) => {
            nothing(Exit::InTheWay, error).help("name another file, or add --if-present replace or aside")
        }
        WriteError::IsALink(path) => {
            let target = path.canonicalize().map(|target| safe(&target.display().to_string()));
            let help = target.map(|target| format!("name what it points to, if you mean that: {target}"));
            nothing(Exit::InTheWay, error).help(help.unwrap_or_else(|_| "name another folder".into()))
        }
        WriteError::Appeared(_) | WriteError::Changed(_) => nothing(Exit::InTheWay, error).help("try again"),
        WriteError::Busy(_) => nothing(Exit::InTheWay, error).help("try again when it is done"),
        WriteError::Conflicts(conflicts) => {
            let message = match conflicts.len() {
                1 => "a file exists and differs; nothing was written".to_owned(),
                several => format!("{several} files exist and differ; nothing was written"),
            };
            let paths: Vec<String> = conflicts.iter().map(|conflict| conflict.path.clone()).collect();
            listed(Failure::new(Exit::InTheWay, message), &paths).help(
                "add --if-present keep, replace or aside (keep yours, replace them, or write the new ones beside them), or name another folder",
            )
        }
        WriteError::Blocked(all) => {
            let lines: Vec<String> = all.iter().map(|(path, why)| format!("{path} {why}")).collect();
            listed(nothing(Exit::InTheWay, error), &lines).help("move them away, or name another folder")
        }
        WriteError::Uncovered(all) => of_uncovered(all),
        WriteError::BehindLinks(paths) => listed(nothing(Exit::Refused, error), paths)
            .help("make folders of these links, or name another folder"),
        WriteError::OtherProject { .. } => nothing(Exit::InTheWay, error).help("name another folder"),
        WriteError::Record(record) => of_record(record),
        WriteError::Cancelled => Failure::new(Exit::Interrupted, error.to_string()),
        WriteError::Io { .. } | WriteError::BadName(_) => nothing(Exit::Failed, error),
        WriteError::State(_) => nothing(Exit::Failed, error)
            .help("without it an interrupted write could not be undone; make that directory writable"),
        WriteError::HalfDone { .. } => Failure::new(Exit::Failed, error.to_string())
            .help("remove the cause, then run tinmold there again: it undoes the write"),
    }
}

/// Makes the failure of files of this machine only that are not kept out of git and images.
fn of_uncovered(all: &[Uncovered]) -> Failure {
    let message = "files of this machine only would get out; nothing was written";
    let mut failure = Failure::new(Exit::Refused, message);
    let mut help = String::new();
    for one in all {
        failure = failure.line(safe(&format!("{} {}", one.path, one.into)));
        if let Some(line) = &one.line {
            failure = failure.line(safe(&format!("  add the line {} to {}", line.line, line.file)));
            help = format!("add the line `{}` to {}, then repeat the command", line.line, line.file);
        }
    }
    failure.help(safe(&help))
}

/// Returns a part that cannot be fitted.
pub fn of_fit(error: FitError, package: &Package) -> Failure {
    match error {
        FitError::DoesNotGo { .. } => Failure::new(Exit::Usage, format!("{error}; nothing was written"))
            .help("see when its parts can be fitted: tinmold show MOLD"),
        FitError::Plan(error) => of_plan(error, package),
        FitError::Verify(error) => of_verify(error, package),
        FitError::Unsafe { .. } => {
            Failure::new(Exit::Refused, "this part would write where it must not; nothing was written")
                .line(safe(&error.to_string()))
                .help("tell the mold's author, or give other answers")
        }
        FitError::Io { .. } => Failure::new(Exit::Failed, format!("{error}; nothing was written")),
    }
}

/// Makes the failure of a record at `root` that does not fit its mold.
pub fn of_mismatch(root: &Path, error: &RecordMismatch) -> Failure {
    let root = root.display();
    Failure::new(Exit::Failed, format!("the record of {root} does not fit its mold: {error}"))
}

/// Makes the failure of a record.
pub fn of_record(error: &RecordError) -> Failure {
    match error {
        RecordError::NotAProject(_) => Failure::new(Exit::Usage, error.to_string())
            .help("go into a project that tinmold cast, or name one"),
        RecordError::Newer { .. } | RecordError::Io { .. } => Failure::new(Exit::Failed, error.to_string()),
        RecordError::Damaged { .. } => Failure::new(Exit::Failed, error.to_string())
            .help("take it from version control as it was, or remove it"),
    }
}

/// Makes the failure of finishing steps that cannot be offered or chosen.
pub fn of_choice(error: ChoiceError, package: &Package) -> Failure {
    let message = format!("{error}; nothing was run");
    match error {
        ChoiceError::Step(StepError::Faulty(finding)) => Failure::findings(&[*finding], package),
        ChoiceError::Step(StepError::Unsafe { .. }) => {
            Failure::new(Exit::Refused, message).help("give another answer, or tell the mold's author")
        }
        ChoiceError::Package(error) => error.into(),
        ChoiceError::OtherDigest { found, vouched, .. } => Failure::new(Exit::Refused, message)
            .line(format!("it is         {found}"))
            .line(format!("vouched for   {}", safe(&vouched)))
            .help("look at the mold again before you vouch for it as it is now"),
        ChoiceError::Unknown { .. } => Failure::new(Exit::Usage, message),
        ChoiceError::NotVouched { origin, digest, steps } => {
            let failure = Failure::new(Exit::Refused, message)
                .line(format!("from {}", safe(&origin)))
                .line(format!("digest {digest}"));
            steps
                .iter()
                .flat_map(consent)
                .fold(failure, Failure::line)
                .help(format!("if you mean to run these, add --vouch {digest}"))
        }
    }
}
