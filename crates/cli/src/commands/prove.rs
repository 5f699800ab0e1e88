//! `tinmold prove`: molds cast in many ways, and built.

use crate::args::{ProveArgs, ProveFormat};
use crate::exit::Exit;
use crate::failure::{Failure, of_choice};
use crate::flow::earlier_version::earlier_version;
use crate::flow::fetch::fetch;
use crate::global::GlobalOptions;
use crate::interrupt::Watch;
use crate::settings::Settings;
use crate::state;
use crate::stop::Stop;
use crate::text::proofs::{self, ProvenMold};
use crate::text::steps::consent;
use crate::text::style::{count, raw, result_document, safe};
use crate::ui::{Dialogue, Interface};
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use std::io::IsTerminal;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, Instant};
use tinmold_author::approved_sets;
use tinmold_author::prove::{ProveObserver, ProveOptions, SetProof, approved, prove, sets_of};
use tinmold_mold::{Mold, Origin, built_in};
use tinmold_project::steps::{ChoiceError, OfferedStep, StepChoice, resolved};
use tinmold_project::write::Observer;

pub fn run(args: &ProveArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let mut molds = Vec::with_capacity(args.molds.len());
    for address in &args.molds {
        let mold = Mold::load(fetch(address, global)?).map_err(Failure::from)?;
        molds.push((address, mold));
    }
    if args.approve {
        return approve(&molds);
    }
    // A stranger's mold runs nothing before a yes.
    for (_, mold) in &molds {
        vouched(mold, args, global)?;
    }
    let folder = folder_for(args)?;
    let options = ProveOptions {
        limits: Settings::read()?.limits(),
        jobs: args.jobs.unwrap_or_else(|| std::thread::available_parallelism().map_or(1, usize::from)),
        set_limit: Duration::from_secs(60 * args.minutes),
        until: args.within.map(|minutes| Instant::now() + Duration::from_secs(60 * minutes)),
        offline: global.offline,
        again: args.again,
        memory: state::proven_folder(),
        folder: folder.path().to_owned(),
        from: None,
    };
    let watch = Watch::new(true);
    let mut proven = Vec::with_capacity(molds.len());
    for (address, mold) in &molds {
        let view = View::new(address, &watch, global);
        let earlier = args.from.as_deref().map(|from| earlier_version(mold, from, global)).transpose()?;
        let from = earlier.as_ref().map(|from| Arc::clone(&from.mold));
        let (differences, broken) = match &from {
            Some(_) => (Vec::new(), Vec::new()),
            None => differences(mold, &options),
        };
        let of_sets = from.as_deref().unwrap_or(mold);
        let sets = sets_of(of_sets).map_err(|finding| Failure::findings(&[finding], &of_sets.package))?;
        let proof = prove(mold, &sets, &ProveOptions { from: from.clone(), ..options.clone() }, &view);
        drop(view);
        let one = ProvenMold { address: (*address).clone(), proof, differences, broken };
        if args.format == ProveFormat::Text {
            say_text!("{}", proofs::shown(&one, &mold.package, global.quiet));
        }
        proven.push(one);
    }
    let fails = |one: &ProvenMold| one.fails() || (args.strict && one.skipped() > 0);
    let is_faulty = proven.iter().any(fails);
    match args.format {
        ProveFormat::Json => result_document("prove-1", proofs::as_json(&proven)),
        ProveFormat::Junit => {
            let text = proofs::as_junit(&proven, args.strict);
            let failed = |error| Failure::new(Exit::Failed, format!("cannot write JUnit XML: {error}"));
            raw(text.map_err(failed)?.as_bytes());
        }
        ProveFormat::Text if proven.len() > 1 && !global.quiet => say!("{}", proofs::total(&proven)),
        ProveFormat::Text => {}
    }
    if is_faulty {
        folder.keep();
    }
    Ok(match (watch.is_cancelled(), is_faulty) {
        (true, _) => Exit::Interrupted,
        (false, true) => Exit::Faulty,
        (false, false) => Exit::Done,
    })
}

/// Where projects are built.
enum Folder {
    /// Removed at the end, unless it is kept.
    Temporary(tempfile::TempDir),
    Named(PathBuf),
}

impl Folder {
    fn path(&self) -> &Path {
        match self {
            Self::Temporary(folder) => folder.path(),
            Self::Named(folder) => folder,
        }
    }

    fn keep(self) {
        if let Self::Temporary(folder) = self {
            drop(folder.keep());
        }
    }
}

fn folder_for(args: &ProveArgs) -> Result<Folder, Failure> {
    let failed = |error: std::io::Error| Failure::new(Exit::Failed, format!("cannot make a folder: {error}"));
    match &args.keep {
        Some(folder) => {
            std::fs::create_dir_all(folder).map_err(failed)?;
            Ok(Folder::Named(std::path::absolute(folder).map_err(failed)?))
        }
        None => {
            let folder = tempfile::Builder::new().prefix("tinmold-prove-").tempdir().map_err(failed)?;
            Ok(Folder::Temporary(folder))
        }
    }
}

/// Makes sure that the user vouches for the proofs of a mold, for its digest.
fn vouched(mold: &Mold, args: &ProveArgs, global: GlobalOptions) -> Result<(), Stop> {
    let refused = |error| Stop::from(of_choice(error, &mold.package));
    if mold.package.origin.is_built_in() {
        return Ok(());
    }
    let (origin, digest) = (mold.package.origin.to_string(), mold.package.digest().map_err(Failure::from)?);
    let digest = digest.to_string();
    // The molds of the program's own sources are the built-in ones.
    let own = built_in(mold.name()).ok().and_then(|package| package.digest().ok());
    if state::is_vouched(&digest) || own.is_some_and(|own| own.to_string() == digest) {
        return Ok(());
    }
    match &args.vouch {
        Some(vouched) if *vouched == digest => return Ok(()),
        Some(vouched) if args.molds.len() == 1 => {
            let vouched = vouched.clone();
            return Err(refused(ChoiceError::OtherDigest { origin, found: digest, vouched }));
        }
        _ => {}
    }
    let session =
        tinmold_author::session_of(mold).map_err(|finding| Failure::findings(&[finding], &mold.package))?;
    // Programs are looked for; the files of the projects are not there yet.
    let read = |_: &str| None;
    let steps = mold.finish.iter().map(|step| resolved(mold, step, session.values(), Some(&read)));
    let steps: Result<Vec<OfferedStep>, _> = steps.collect();
    let steps = steps.map_err(|error| refused(error.into()))?;
    if Interface::of_terminal(global.plain).is_none() {
        return Err(refused(ChoiceError::NotVouched { origin, digest, steps }));
    }
    for step in &steps {
        say!("{}", safe(&step.label));
        consent(step).iter().for_each(|line| say!("  {line}"));
    }
    let ticked = vec![true; steps.len()];
    let choice = StepChoice { steps, ticked, vouched: false, is_own: true, origin, digest };
    match Dialogue.vouches(&choice)? {
        true => Ok(()),
        false => Err(Stop::Left),
    }
}

/// Returns what comes out otherwise than it was approved, and the answers that cannot be used.
fn differences(mold: &Mold, options: &ProveOptions) -> (Vec<approved::Difference>, Vec<(String, String)>) {
    let (mut found, mut broken) = (Vec::new(), Vec::new());
    for (name, set) in approved_sets(mold) {
        let set = match set {
            Ok(set) => set,
            Err(error) => {
                broken.push((name, error.to_string()));
                continue;
            }
        };
        match approved::differences(mold, &name, &set, &options.limits) {
            Ok(differences) => found.extend(differences),
            Err(findings) => broken.extend(findings.into_iter().map(|it| (name.clone(), it.message))),
        }
    }
    (found, broken)
}

/// Writes what comes out now for the answers in `proofs/` of each mold.
fn approve(molds: &[(&String, Mold)]) -> Result<Exit, Stop> {
    let limits = Settings::read()?.limits();
    for (address, mold) in molds {
        let Origin::Folder(folder) = &mold.package.origin else {
            let message = format!("{address} is not a folder, so that nothing can be approved in it");
            return Err(Failure::new(Exit::Usage, message).into());
        };
        let sets = approved_sets(mold);
        if sets.is_empty() {
            say!("{} has no answers in proofs/NAME/answers.toml.", safe(address));
        }
        for (name, set) in sets {
            let failed = |message: String| Failure::new(Exit::Faulty, format!("proofs/{name}: {message}"));
            let set = set.map_err(|error| failed(error.to_string()))?;
            let written = approved::approve(mold, folder, &name, &set, &limits)
                .map_err(|findings| Failure::findings(&findings, &mold.package))?;
            let files =
                written.map_err(|error| Failure::new(Exit::Failed, format!("cannot write: {error}")))?;
            say!("{}: approved {name}, {}.", safe(address), count(files, "file"));
        }
    }
    Ok(Exit::Done)
}

/// Shows how far a proof is.
struct View<'a> {
    watch: &'a Watch,
    bar: Option<ProgressBar>,
    is_told: bool,
}

impl<'a> View<'a> {
    fn new(address: &str, watch: &'a Watch, global: GlobalOptions) -> Self {
        let is_shown = !global.quiet && !global.plain && !global.verbose && std::io::stderr().is_terminal();
        let bar = is_shown.then(|| {
            let bar = ProgressBar::with_draw_target(Some(0), ProgressDrawTarget::stderr_with_hz(10));
            // The template is a constant of this file.
            if let Ok(style) =
                ProgressStyle::with_template("{prefix} {bar:24} {pos} of {len}  {elapsed}  {wide_msg}")
            {
                bar.set_style(style.progress_chars("■■□"));
            }
            bar.set_prefix(format!("Proving {}", safe(address)));
            bar.enable_steady_tick(Duration::from_millis(200));
            bar
        });
        Self { watch, bar, is_told: global.verbose }
    }
}

impl Drop for View<'_> {
    fn drop(&mut self) {
        if let Some(bar) = &self.bar {
            bar.finish_and_clear();
        }
    }
}

impl ProveObserver for View<'_> {
    fn ended(&self, done: usize, of: usize, proof: &SetProof) {
        if let Some(bar) = &self.bar {
            bar.set_length(of as u64);
            bar.set_position(done as u64);
            bar.set_message(safe(&proof.set.to_string()));
        } else if self.is_told {
            say!("{done} of {of}  {:<8} {}", proofs::word(proof), safe(&proof.set.to_string()));
        }
    }

    fn is_cancelled(&self) -> bool {
        self.watch.is_cancelled()
    }
}
