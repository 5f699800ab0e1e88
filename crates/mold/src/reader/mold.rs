//! Reads `mold.toml`.

use super::context::{ManifestReader, manifest_text};
use super::derived::Asked;
use super::{body, layers, presets, steps, texts};
use crate::codes;
use crate::manifest::{Header, Manifest, read_manifest};
use crate::model::{Layer, Mold, MoldError, Texts, bad_folder};
use crate::package::Package;
use crate::question::Form;
use std::collections::BTreeMap;
use std::ops::Range;
use tinmold_notation::{Finding, Fragments, Marks, Scope};

impl Mold {
    /// Reads the manifest of a package and resolves names, types and order. The body is compiled when
    /// it is rendered or checked.
    ///
    /// # Errors
    /// Files that cannot be read, and every mistake of the manifest.
    pub fn load(package: Package) -> Result<Self, MoldError> {
        let _span = tracing::debug_span!("load_mold", origin = %package.origin).entered();
        let source = match manifest_text(&package, "mold.toml")? {
            Ok(source) => source,
            Err(finding) => return Err(MoldError::faulty(vec![finding], package)),
        };
        let mut reader = ManifestReader::new(&source, "mold.toml");
        let mut manifest = match read_manifest(&source) {
            Ok(manifest) => manifest,
            Err(errors) => {
                // A mold for a newer program may have keys that this one does not know.
                match required_program(&source).filter(|(range, _)| !is_for_this_program(range)) {
                    Some((range, span)) => other_program(&mut reader, &range, span),
                    None => reader.add_shape_errors(errors),
                }
                return Err(MoldError::faulty(reader.findings, package));
            }
        };
        if let Some(range) = &manifest.mold.tinmold
            && !is_for_this_program(range.get_ref())
        {
            other_program(&mut reader, range.get_ref(), range.span());
            return Err(MoldError::faulty(reader.findings, package));
        }
        let layers = layers::merge(&mut reader, &mut manifest, &package)?;
        let mut mold = assemble(&mut reader, manifest, package, layers);
        let (mut findings, scope) = (reader.findings, reader.scope);
        mold.scope = scope;
        tinmold_notation::sort_findings(&mut findings);
        if findings.iter().any(Finding::is_error) {
            return Err(MoldError::faulty(findings, mold.package));
        }
        mold.source = source;
        Ok(mold)
    }
}

/// Makes the model of a mold, or of a part, with its questions; the rest is still empty.
pub(super) fn model(
    reader: &ManifestReader,
    package: Package,
    header: Header,
    asked: Asked,
    marks: Marks,
) -> Mold {
    let Asked { questions, derived, steps } = asked;
    Mold {
        package,
        header,
        source: String::new(),
        questions,
        scope: Scope::new(),
        shown_scope: reader.scope.clone(),
        steps,
        derived,
        fragments: Fragments::default(),
        body: Vec::new(),
        each: Vec::new(),
        texts: Texts::default(),
        needs: Vec::new(),
        finish: Vec::new(),
        presets: BTreeMap::new(),
        marks: vec![marks],
        home: String::new(),
        rules: Vec::new(),
        layers: Vec::new(),
    }
}

fn assemble(reader: &mut ManifestReader, manifest: Manifest, package: Package, layers: Vec<Layer>) -> Mold {
    check_header(reader, &manifest.mold);
    texts::refuse_tags(reader, &[&manifest.mold.summary], &manifest.question);
    let Manifest { mold: header, marks, question, derive, files, need, finish, tour, next, preset, .. } =
        manifest;
    let asked = Asked::default().and(reader, question, derive);
    let marks = marks.as_ref().map_or_else(Marks::default, |marks| reader.marks(marks));
    let mut mold = model(reader, package, header, asked, marks);
    mold.layers = layers;
    mold.texts.folder = mold.header.folder.as_ref().map(|folder| reader.own_text(folder));
    if let Some(folder) = mold.texts.folder.as_ref().filter(|folder| folder.is_fixed()) {
        reader.findings.extend(bad_folder(folder.text(), folder.span()));
    }
    body::read(reader, &mut mold, files);
    refuse_twin_parts(reader, &mold);
    mold.shown_scope.unbar("system");
    mold.texts.tour = texts::tour(reader, &tour, &mold.shown_scope);
    mold.texts.next = texts::lines(reader, &next, &mold.shown_scope);
    mold.needs = steps::needs(reader, need, &mold.shown_scope);
    mold.finish = steps::steps(reader, finish, &mold.shown_scope);
    mold.presets = presets::presets(reader, &mold.questions, preset);
    mold
}

/// Reports parts of one name that come from several places.
fn refuse_twin_parts(reader: &mut ManifestReader, mold: &Mold) {
    let mut seen = BTreeMap::new();
    for (name, home) in mold.part_homes() {
        if let Some(other) = seen.insert(name, home) {
            let (one, other) = (mold.package.shown(other), mold.package.shown(home));
            let message = format!("{one} and {other} are one part");
            let help = format!(
                "say which one stands: add `without = [\"parts/{name}\"]` to the layer that gives way"
            );
            reader.add(codes::LAYER_CLASH, 0..0, message, help);
        }
    }
}

/// Checks that name, version and owner have their forms.
fn check_header(reader: &mut ManifestReader, header: &Header) {
    let forms = [
        (Some(&header.name), Form::Kebab),
        (Some(&header.version), Form::Semver),
        (header.owner.as_ref(), Form::ReverseDomain),
    ];
    for (text, form) in forms {
        if let Some(text) = text
            && let Err(refusal) = form.check(text.get_ref())
        {
            let message =
                format!("{:?} does not have the form {}: {}", text.get_ref(), form.name(), refusal.reason);
            reader.add(codes::BAD_HEADER, text.span(), message, refusal.advice);
        }
    }
    if let Some(range) = &header.tinmold
        && let Err(error) = semver::VersionReq::parse(range.get_ref())
    {
        let message = format!("this is not a range of versions: {error}");
        reader.add(codes::BAD_HEADER, range.span(), message, "write `>=0.1`");
    }
}

/// Returns the version requirement of a manifest, with its span.
fn required_program(source: &str) -> Option<(String, Range<usize>)> {
    let table = toml::de::DeTable::parse(source).ok()?;
    let mold = table.get_ref().get("mold")?.get_ref().as_table()?;
    let range = mold.get("tinmold")?;
    Some((range.get_ref().as_str()?.to_owned(), range.span()))
}

fn is_for_this_program(range: &str) -> bool {
    match (semver::VersionReq::parse(range), semver::Version::parse(env!("CARGO_PKG_VERSION"))) {
        (Ok(range), Ok(own)) => range.matches(&own),
        _ => true,
    }
}

fn other_program(reader: &mut ManifestReader, range: &str, span: Range<usize>) {
    let message =
        format!("this mold is for tinmold {range}, and this is tinmold {}", env!("CARGO_PKG_VERSION"));
    reader.add(codes::OTHER_PROGRAM, span, message, "get that version, or another version of the mold");
}
