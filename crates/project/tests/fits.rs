//! Fits in a project: plan, write, record and undo; and concurrent changes.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::{choices, journals, mold, session};
use std::fs;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use tempfile::TempDir;
use tinmold_mold::{Mold, MoldError, Part};
use tinmold_project::answers::{AnswerSource, Answers, Given, Offers, Session};
use tinmold_project::fit::{
    Fit, FitError, Fitting, OnClash, TextProblem, Undo, UndoError, UndoProblem, as_cast, belongs, in_folder,
};
use tinmold_project::plan::{Limits, Plan};
use tinmold_project::record::{self, FileStatus, Recorded};
use tinmold_project::verify::VerifyError;
use tinmold_project::write::{Choice, Observer, WriteError, inspect};

const MANIFEST: &str = "[[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\ndefault = \"Gull Point\"\n\
    [[question]]\nkey = \"secret\"\nkind = \"minted\"\n[derive]\nslug = \"{= pier.snake =}\"\n\
    [[files]]\nmatch = \".env\"\nlocal = true\n";
const BODY: [(&str, &str); 4] = [
    ("body/board.txt", "piers of {= pier =}\n  # joint: piers (tinmold)\nend\n"),
    ("body/tides.json", "{\n  \"pier\": \"{= pier =}\"\n}\n"),
    ("body/.gitignore", ".env\nkeys/\n"),
    ("body/.env", "KEY={= secret =}\n"),
];
const QUAY: &str = "[part]\nname = \"quay\"\nsummary = \"One more quay\"\n\
    [[question]]\nkey = \"quay\"\nask = \"Quay\"\nkind = \"text\"\n\
    [[question]]\nkey = \"berths\"\nask = \"Berths\"\nkind = \"texts\"\ndefault = [\"A1\", \"B2\"]\n\
    [[joint]]\nfile = \"board.txt\"\nname = \"piers\"\nlines = [\"{= quay =} of {= pier =}\"]\n\
    [[edit]]\nfile = \"tides.json\"\nset = { \"{= quay.kebab =}\" = { from = \"{= slug =}\", berths = [\"{= berths.join('\\\\n') =}\"] } }\n";

/// Makes a mold with the part `quay`: the rest of the part's manifest, and more files.
fn harbor(more: &str, files: &[(&str, &str)]) -> Mold {
    let manifest = format!("{QUAY}{more}");
    let part = [("parts/quay/part.toml", manifest.as_str())];
    mold(MANIFEST, &BODY.iter().chain(&part).chain(files).copied().collect::<Vec<_>>())
}

fn cast(mold: &Mold, root: &Path) -> Recorded {
    let mut answers = session(mold, &[], Offers::default()).finish().unwrap();
    answers.set_folder(mold, "harbor");
    let plan = Plan::new(mold, &answers, &Limits::default()).unwrap().verify().unwrap();
    common::write(&plan, root, &()).unwrap();
    record::open(root).unwrap()
}

/// Returns the part's answers in this project, on a date.
fn answers(part: &Part, mold: &Mold, recorded: &Recorded, set: &[(&str, &str)], day: &str) -> Answers {
    let mut given = recorded.given(mold).unwrap();
    let own = session(&part.mold, set, Offers::default());
    given.resize(part.mold.questions.len(), None);
    let offers = Offers { folder: Some("harbor".into()), ..Offers::default() };
    for (at, resolved) in own.resolved().iter().enumerate().skip(mold.questions.len()) {
        let source = AnswerSource::Set;
        given[at] = Some(Given { value: resolved.value.clone(), source });
    }
    let mut session = Session::new(&part.mold, given, offers, recorded.built_ins()).unwrap();
    session.set_day(day).unwrap();
    session.finish().unwrap()
}

fn quay(mold: &Mold) -> Part {
    mold.part("quay").unwrap()
}

/// Plans a fit of the quay of this name.
fn plan<'p>(part: &'p Part, mold: &Mold, recorded: &Recorded, name: &str) -> Result<Fitting<'p>, FitError> {
    let answers = answers(part, mold, recorded, &[("quay", name)], "2026-11-23");
    Fitting::new(part, &answers, &in_folder(&recorded.root), &Limits::default(), OnClash::Ask)
}

/// Inspects the project and writes the fit into it.
fn write(
    fitting: &Fitting<'_>,
    recorded: &Recorded,
    choice: Option<Choice>,
    observer: &dyn Observer,
) -> Result<Fit, WriteError> {
    let inspection = inspect(&fitting.plan, &recorded.root)?;
    fitting.write(
        &inspection,
        &choices(&inspection, &fitting.plan, choice),
        Some(recorded),
        &journals(&recorded.root),
        observer,
    )
}

#[test]
fn a_fit_sees_the_casting_and_is_recorded_with_what_takes_it_back() {
    let place = TempDir::new().unwrap();
    let root = place.path().join("harbor");
    let part_files = [
        ("parts/quay/body/keys/{= quay =}.key", "{= quay =} {= today =} {= project.dir =}\n"),
        ("parts/quay/body/berths/{= berth =}.txt", "{= place 'sign' given text = berth =}\n"),
        ("parts/quay/fragments/sign", "sign: {= text =}\n"),
    ];
    let rules = "[[files]]\nmatch = \"keys/**\"\nlocal = true\n[[files]]\nmatch = \"berths/**\"\neach = \"berth in berths\"\n";
    let mold = harbor(rules, &part_files);
    let recorded = cast(&mold, &root);
    let part = quay(&mold);
    assert_eq!(part.own_questions().count(), 2);
    let fitting = plan(&part, &mold, &recorded, "Tern Quay").unwrap();
    let fit = write(&fitting, &recorded, None, &()).unwrap();
    assert_eq!(fit.added, ["berths/A1.txt", "berths/B2.txt", "keys/Tern Quay.key"]);
    assert_eq!(fit.changed, ["board.txt", "tides.json"]);
    let read = |path: &str| fs::read_to_string(root.join(path)).unwrap();
    assert_eq!(
        read("board.txt"),
        "piers of Gull Point\n  Tern Quay of Gull Point\n  # joint: piers (tinmold)\nend\n"
    );
    let tides: serde_json::Value = serde_json::from_str(&read("tides.json")).unwrap();
    assert_eq!(tides["tern-quay"], serde_json::json!({ "from": "gull_point", "berths": ["A1", "B2"] }));
    assert_eq!(read("berths/B2.txt"), "sign: B2\n");
    assert_eq!(read("keys/Tern Quay.key"), "Tern Quay 2026-11-23 harbor\n");
    // The record has it; files for this machine only have no digest there.
    let after = record::open(&root).unwrap();
    assert_eq!(after.casting.part[0].answers["quay"].as_str(), Some("Tern Quay"));
    assert!(after.digests.contains_key("berths/A1.txt") && !after.digests.contains_key("keys/Tern Quay.key"));
    let status = record::status(&after);
    assert_eq!(
        status.of(FileStatus::Changed).count() + status.of(FileStatus::Missing).count(),
        0,
        "{status:?}"
    );
    // Another day changes nothing: the record has the day, and the same answers give the same files.
    let later = answers(&part, &mold, &after, &[("quay", "Tern Quay")], "2027-01-01");
    assert_eq!(after.day_of(&part, &later).as_deref(), Some("2026-11-23"));
    assert_eq!(after.day_of(&part, &answers(&part, &mold, &after, &[("quay", "x")], "2027-01-01")), None);
    let again = plan(&part, &mold, &after, "Tern Quay").unwrap();
    assert!(again.changes_nothing());
    assert!(write(&again, &after, None, &()).unwrap().is_nothing());
    assert_eq!(record::open(&root).unwrap().casting, after.casting);
    // A file that the user removed is added again by the same fit, which is recorded once.
    fs::remove_file(root.join("berths/A1.txt")).unwrap();
    let fit = write(&plan(&part, &mold, &after, "Tern Quay").unwrap(), &after, None, &()).unwrap();
    assert_eq!((fit.added.as_slice(), fit.changed.len()), (&["berths/A1.txt".to_owned()][..], 0));
    let after = record::open(&root).unwrap();
    assert_eq!(after.casting.part.len(), 1);
    Undo::of(&after).unwrap().write(&journals(&root), &()).unwrap();
    assert_eq!(record::open(&root).unwrap().casting, recorded.casting);
    assert_eq!(record::open(&root).unwrap().digests, recorded.digests);
    assert!(!root.join("berths").exists() && !root.join("keys").exists());
    assert!(matches!(Undo::of(&recorded), Err(UndoError::Nothing(_))));
}

#[test]
fn a_file_that_its_owner_changed_stays_changed() {
    let place = TempDir::new().unwrap();
    let root = place.path().join("harbor");
    let mold = harbor("", &[]);
    let recorded = cast(&mold, &root);
    fs::write(root.join("board.txt"), "mine\n# joint: piers (tinmold)\n").unwrap();
    let part = quay(&mold);
    write(&plan(&part, &mold, &recorded, "Tern Quay").unwrap(), &recorded, None, &()).unwrap();
    let after = record::open(&root).unwrap();
    assert_eq!(after.digests["board.txt"], recorded.digests["board.txt"]);
    assert_ne!(after.digests["tides.json"], recorded.digests["tides.json"]);
    let status = record::status(&after);
    assert_eq!(status.of(FileStatus::Changed).collect::<Vec<_>>(), ["board.txt"]);
    Undo::of(&after).unwrap().write(&journals(&root), &()).unwrap();
    assert_eq!(fs::read_to_string(root.join("board.txt")).unwrap(), "mine\n# joint: piers (tinmold)\n");
    assert_eq!(record::open(&root).unwrap().digests, recorded.digests);
}

/// Writes into a file as soon as the fit is at work.
struct Meddler<'p>(&'p Path, AtomicBool);

impl Observer for Meddler<'_> {
    fn wrote(&self, _: usize, _: usize) {
        if !self.1.swap(true, Ordering::SeqCst) {
            fs::write(self.0, "somebody else's\n").unwrap();
        }
    }
}

/// Stops as soon as something was written.
struct Impatient(AtomicBool);

impl Observer for Impatient {
    fn wrote(&self, _: usize, _: usize) {
        self.0.store(true, Ordering::SeqCst);
    }

    fn is_cancelled(&self) -> bool {
        self.0.load(Ordering::SeqCst)
    }
}

#[test]
fn what_somebody_writes_meanwhile_is_never_lost() {
    let place = TempDir::new().unwrap();
    let root = place.path().join("harbor");
    let files = ["a", "b", "c"].map(|name| (format!("parts/quay/body/{name}.txt"), format!("{name}\n")));
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect();
    let mold = harbor("", &files);
    let recorded = cast(&mold, &root);
    let part = quay(&mold);
    let before = fs::read(root.join(record::CASTING)).unwrap();
    // A file that changes, one that appears, and one that was to be replaced.
    fs::write(root.join("c.txt"), "mine\n").unwrap();
    for path in ["board.txt", "b.txt", "c.txt"] {
        let fitting = plan(&part, &mold, &recorded, "Tern Quay").unwrap();
        let there = fs::read(root.join(path)).ok();
        let meddler = Meddler(&root.join(path), AtomicBool::new(false));
        let error = write(&fitting, &recorded, Some(Choice::Replace), &meddler).unwrap_err();
        assert!(matches!(error, WriteError::Changed(_) | WriteError::Appeared(_)), "{path}: {error}");
        assert_eq!(fs::read_to_string(root.join(path)).unwrap(), "somebody else's\n");
        assert_eq!(fs::read(root.join(record::CASTING)).unwrap(), before);
        assert!(!root.join("a.txt").exists() && !root.join(".tinmold/pending").exists());
        match there {
            Some(bytes) => fs::write(root.join(path), bytes).unwrap(),
            None => fs::remove_file(root.join(path)).unwrap(),
        }
    }
    fs::remove_file(root.join("c.txt")).unwrap();
    let fitting = plan(&part, &mold, &recorded, "Tern Quay").unwrap();
    let error = write(&fitting, &recorded, None, &Impatient(AtomicBool::new(false))).unwrap_err();
    assert!(matches!(error, WriteError::Cancelled), "{error}");
    assert!(!root.join("a.txt").exists());
    // The same for undo.
    write(&fitting, &recorded, None, &()).unwrap();
    let after = record::open(&root).unwrap();
    let undo = Undo::of(&after).unwrap();
    fs::write(root.join("a.txt"), "mine\n").unwrap();
    assert!(matches!(undo.write(&journals(&root), &()), Err(WriteError::Changed(_))));
    fs::write(root.join("a.txt"), "a\n").unwrap();
    let undo = Undo::of(&after).unwrap();
    fs::write(root.join("board.txt"), "mine\n").unwrap();
    assert!(matches!(undo.write(&journals(&root), &()), Err(WriteError::Changed(_))));
    assert!(root.join("a.txt").exists() && root.join("b.txt").exists());
    let Err(UndoError::NotAsFitted { files, .. }) = Undo::of(&after) else { panic!("it is taken back") };
    assert!(matches!(&files[..], [(path, UndoProblem::Changed)] if path == "board.txt"), "{files:?}");
}

#[test]
fn what_gives_place_comes_back_if_it_was_text() {
    let place = TempDir::new().unwrap();
    let root = place.path().join("harbor");
    let mold = harbor("", &[("parts/quay/body/a.txt", "a\n"), ("parts/quay/body/b.txt", "b\n")]);
    let recorded = cast(&mold, &root);
    let part = quay(&mold);
    fs::write(root.join("a.txt"), "mine\n").unwrap();
    fs::write(root.join("b.txt"), [0xff, 0]).unwrap();
    let fitting = plan(&part, &mold, &recorded, "Tern Quay").unwrap();
    let without = write(&fitting, &recorded, None, &());
    assert!(matches!(without, Err(WriteError::Conflicts(all)) if all.len() == 2));
    let inspection = inspect(&fitting.plan, &root).unwrap();
    let paths: Vec<String> = inspection.conflicts(&fitting.plan).into_iter().map(|one| one.path).collect();
    assert_eq!(paths, ["a.txt", "b.txt"]);
    let mixed = [Choice::Replace, Choice::Aside];
    let fit = fitting.write(&inspection, &mixed, Some(&recorded), &journals(&root), &()).unwrap();
    assert_eq!(fit.added, ["b.txt.from-mold"]);
    assert_eq!(fit.changed, ["a.txt", "board.txt", "tides.json"]);
    let after = record::open(&root).unwrap();
    let undo = Undo::of(&after).unwrap();
    assert_eq!(undo.removed, ["b.txt.from-mold"]);
    undo.write(&journals(&root), &()).unwrap();
    assert_eq!(fs::read_to_string(root.join("a.txt")).unwrap(), "mine\n");
    assert!(!root.join("b.txt.from-mold").exists());
    assert_eq!(record::open(&root).unwrap().digests, recorded.digests);
    // Bytes that are not text are not kept in a record, and so are not restored.
    let fitting = plan(&part, &mold, &recorded, "Tern Quay").unwrap();
    write(&fitting, &recorded, Some(Choice::Replace), &()).unwrap();
    let error = Undo::of(&record::open(&root).unwrap()).unwrap_err();
    let UndoError::NotAsFitted { files, .. } = error else { panic!("{error}") };
    assert!(matches!(&files[..], [(path, UndoProblem::NotText)] if path == "b.txt"), "{files:?}");
}

#[test]
fn what_a_part_must_not_do_is_refused() {
    let place = TempDir::new().unwrap();
    let root = place.path().join("harbor");
    let recorded = cast(&harbor("", &[]), &root);
    type Files = &'static [(&'static str, &'static str)];
    let cases: [(&str, Files, &str); 8] = [
        ("", &[("parts/quay/body/../x", "")], "unsafe"),
        ("", &[("parts/quay/body/.git/hooks/x", "")], "unsafe"),
        ("", &[("parts/quay/body/{= quay =}", "x")], "unsafe"),
        ("[[joint]]\nfile = \"/etc/passwd\"\nname = \"x\"\nlines = [\"y\"]\n", &[], "outside"),
        ("[[joint]]\nfile = \"{= quay =}/x\"\nname = \"x\"\nlines = [\"y\"]\n", &[], "outside"),
        ("[[joint]]\nfile = \".tinmold/casting.toml\"\nname = \"x\"\nlines = [\"y\"]\n", &[], "outside"),
        (
            "[[files]]\nmatch = \"my.key\"\nlocal = true\n",
            &[("parts/quay/body/my.key", "x")],
            "uncovered-secret",
        ),
        ("[[joint]]\nfile = \"tides.json\"\nname = \"none\"\nlines = [\"y\"]\n", &[], "missing"),
    ];
    for (more, files, expected) in cases {
        let mold = harbor(more, files);
        let part = quay(&mold);
        let found = match plan(&part, &mold, &recorded, "..") {
            Err(FitError::Verify(VerifyError::Unsafe(_))) => "unsafe",
            Err(FitError::Unsafe { .. }) => "outside",
            Ok(fitting) if !fitting.missing.is_empty() => "missing",
            Ok(fitting) => match write(&fitting, &recorded, None, &()) {
                Err(WriteError::Uncovered(_)) => "uncovered-secret",
                other => panic!("{other:?}"),
            },
            other => panic!("{other:?}"),
        };
        assert_eq!(found, expected, "{more} {files:?}");
    }
    // Lines that break a file are the part's mistake, and nothing of it is written.
    let json = [("body/list.json", "[\n  1\n]\n"), ("body/.gitignore", ".env\n")];
    let broken = "[[joint]]\nfile = \"list.txt\"\nname = \"x\"\nlines = [\"y\"]\n";
    let mold = harbor(&broken.replace("list.txt", "list.json"), &json[..1]);
    let marked = "// joint: x (tinmold)\n[1]\n";
    fs::write(root.join("list.json"), marked).unwrap();
    let part = quay(&mold);
    assert!(plan(&part, &mold, &recorded, "x").is_ok(), "what was broken before is not the part's mistake");
    // A minted value of the mold cannot be used, not even in a file for this machine only.
    let secret = [("parts/quay/body/keys/k", "{= secret =}\n")];
    let mold = harbor("[[files]]\nmatch = \"keys/**\"\nlocal = true\n", &secret);
    let Err(MoldError::Faulty(faulty)) = mold.part("quay") else { panic!("it has the minted value") };
    assert_eq!(faulty.findings[0].code.as_str(), "bad-part");
}

#[test]
fn lines_without_a_place_are_shown_where_the_mold_has_them() {
    let mold = harbor("", &[]);
    let answers = session(&mold, &[("pier", "Heron Stairs")], Offers::default()).finish().unwrap();
    let plan = Plan::new(&mold, &answers, &Limits::default()).unwrap().verify().unwrap();
    let lines = belongs(&plan, "board.txt", "piers").unwrap();
    assert_eq!(lines, ["piers of Heron Stairs", "  # joint: piers (tinmold)"]);
    assert_eq!(belongs(&plan, "board.txt", "quays"), None);
    assert_eq!(belongs(&plan, "none.txt", "piers"), None);
    let read = as_cast(&plan);
    assert_eq!(read("tides.json").unwrap().unwrap(), "{\n  \"pier\": \"Heron Stairs\"\n}\n");
    assert_eq!(read("none.txt").unwrap(), Err(TextProblem::NotCast));
}

#[cfg(unix)]
#[test]
fn permissions_and_links_stay_what_they_are() {
    use std::os::unix::fs::{PermissionsExt, symlink};
    let place = TempDir::new().unwrap();
    let root = place.path().join("harbor");
    let mold = harbor("", &[]);
    let recorded = cast(&mold, &root);
    fs::set_permissions(root.join("board.txt"), fs::Permissions::from_mode(0o750)).unwrap();
    let part = quay(&mold);
    let fitting = plan(&part, &mold, &recorded, "Tern Quay").unwrap();
    write(&fitting, &recorded, None, &()).unwrap();
    let mode = || fs::metadata(root.join("board.txt")).unwrap().permissions().mode() & 0o777;
    assert_eq!(mode(), 0o750);
    Undo::of(&record::open(&root).unwrap()).unwrap().write(&journals(&root), &()).unwrap();
    assert_eq!(mode(), 0o750);
    // A file that became a link is not written through.
    fs::rename(root.join("board.txt"), place.path().join("elsewhere")).unwrap();
    symlink(place.path().join("elsewhere"), root.join("board.txt")).unwrap();
    let fitting = plan(&part, &mold, &recorded, "Tern Quay").unwrap();
    assert_eq!(fitting.missing[0].why, TextProblem::NotAFile);
    let text = fs::read_to_string(place.path().join("elsewhere")).unwrap();
    assert!(!text.contains("Tern Quay"), "{text}");
}

#[test]
fn another_version_at_a_joint_is_in_the_way() {
    let pom = "<project>\n  <dependencies>\n    <dependency>\n      <groupId>g</groupId>\n      <artifactId>a</artifactId>\n      \
        <version>1</version>\n    </dependency>\n    <!-- joint: dependencies (tinmold) -->\n  </dependencies>\n</project>\n";
    let part = |version: &str| {
        format!(
            "[[joint]]\nfile = \"pom.xml\"\nname = \"dependencies\"\nsame = '<groupId>[^<]*</groupId>\\s*<artifactId>[^<]*</artifactId>'\n\
             lines = [\"\"\"\n<dependency>\n  <groupId>g</groupId>\n  <artifactId>a</artifactId>\n  <version>{version}</version>\n</dependency>\n\"\"\"]\n"
        )
    };
    let place = TempDir::new().unwrap();
    let root = place.path().join("harbor");
    let recorded = cast(&harbor("", &[]), &root);
    fs::write(root.join("pom.xml"), pom).unwrap();
    for (version, clashes, on_clash, expected) in [
        ("1", 0, OnClash::Ask, pom.to_owned()),
        ("2", 1, OnClash::Keep, pom.to_owned()),
        ("2", 1, OnClash::Replace, pom.replace("<version>1<", "<version>2<")),
    ] {
        let mold = harbor(&part(version), &[]);
        let part = quay(&mold);
        let answers = answers(&part, &mold, &recorded, &[("quay", "x")], "2026-11-23");
        let fitting = Fitting::new(&part, &answers, &in_folder(&root), &Limits::default(), on_clash).unwrap();
        assert_eq!(fitting.clashes.len(), clashes, "{version}");
        let made = fitting.changes.iter().find(|change| change.path == "pom.xml");
        assert_eq!(made.map_or(pom, |change| &change.after), expected, "{version}");
    }
    // Without the file, every line is left to the user.
    fs::remove_file(root.join("pom.xml")).unwrap();
    let lines =
        "[[joint]]\nfile = \"pom.xml\"\nname = \"dependencies\"\nsame = '^.'\nlines = [\"a 1\", \"b 2\"]\n";
    let mold = harbor(lines, &[]);
    let part = quay(&mold);
    let fitting = plan(&part, &mold, &recorded, "x").unwrap();
    assert_eq!(fitting.missing[0].lines, ["a 1", "b 2"]);
}
