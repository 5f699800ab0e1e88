//! Reads `part.toml` with the names of the mold that the part grows.

use super::context::{ManifestReader, manifest_text};
use super::derived::Asked;
use super::earlier::earlier;
use super::mold::model;
use super::{body, texts};
use crate::codes;
use crate::manifest::{PartManifest, Placed, RawEdit, RawJoint, RawPart, RawValue, read_part_manifest};
use crate::model::{Mold, MoldError, Part, PartEdit, PartJoint, Piece};
use crate::question::{Form, Question};
use tinmold_notation::{Finding, NameId, Span, compile};
use toml::Spanned;

impl Mold {
    /// Reads a part of the mold.
    ///
    /// # Errors
    /// There is no part of this name, its files cannot be read, and every mistake of its manifest.
    pub fn part(&self, name: &str) -> Result<Part, MoldError> {
        let found = self.part_homes().find(|(part, _)| *part == name).map(|(_, home)| home.to_owned());
        let home = found.unwrap_or_else(|| format!("parts/{name}/"));
        let path = format!("{home}part.toml");
        let package = self.package.clone();
        let source = match manifest_text(&package, &path)? {
            Ok(source) => source,
            Err(finding) => return Err(MoldError::faulty(vec![finding], package)),
        };
        let mut reader = ManifestReader::new(&source, &path);
        let manifest = match read_part_manifest(&source) {
            Ok(manifest) => manifest,
            Err(errors) => {
                reader.add_shape_errors(errors);
                return Err(MoldError::faulty(reader.findings, package));
            }
        };
        let PartManifest { part: header, question, derive, files, joint, edit, next } = manifest;
        check_names(&mut reader, &header, name);
        let parts = self.parts();
        let was = earlier(&mut reader, &header.was, |was| {
            parts.contains(&was).then(|| "the mold has a part of this name".to_owned())
        });
        texts::refuse_tags(&mut reader, &[&header.summary], &question);
        let stands_alone = header.anywhere || !header.fits.is_empty();
        let before = if stands_alone { Asked::default() } else { self.asked(&mut reader) };
        let known = before.questions.len();
        let asked = before.and(&mut reader, question, derive);
        let when = header.when.as_ref().map(|when| reader.own_condition(when));
        let network = header.network.as_ref().map(|network| reader.own_condition(network));
        let joints = joint.into_iter().map(|joint| read_joint(&mut reader, joint)).collect();
        let edits = edit.into_iter().map(|edit| read_edit(&mut reader, edit)).collect();
        let mut mold = model(&reader, package, self.header.clone(), asked, self.marks[0].clone());
        mold.home = home;
        if !stands_alone {
            mold.fragments = self.fragments.clone();
        }
        body::read(&mut reader, &mut mold, files);
        mold.shown_scope.unbar("system");
        mold.texts.next = texts::lines(&mut reader, &next, &mold.shown_scope);
        mold.scope = reader.scope.clone();
        mold.refuse_earlier_minted(&mut reader, known);
        let mut findings = reader.findings;
        tinmold_notation::sort_findings(&mut findings);
        if findings.iter().any(Finding::is_error) {
            return Err(MoldError::faulty(findings, mold.package));
        }
        mold.source = source;
        Ok(Part {
            name: header.name.into_inner(),
            summary: header.summary.into_inner(),
            when,
            fits: header.fits.into_iter().map(Spanned::into_inner).collect(),
            anywhere: header.anywhere,
            was,
            network,
            joints,
            edits,
            mold,
        })
    }

    /// Returns what this mold asks and computes, as a part of it sees that.
    fn asked(&self, reader: &mut ManifestReader) -> Asked {
        reader.scope = self.scope.clone();
        let questions = self.questions.iter().cloned();
        Asked {
            questions: questions.map(|question| Question { from_casting: true, ..question }).collect(),
            derived: self.derived.clone(),
            steps: self.steps.clone(),
        }
    }

    /// Refuses secrets of the cast: no record holds them.
    fn refuse_earlier_minted(&self, reader: &mut ManifestReader, known: usize) {
        let minted: Vec<NameId> = self.questions[..known]
            .iter()
            .filter(|question| question.is_secret())
            .map(|question| question.id)
            .collect();
        for entry in self.body.iter().filter(|entry| entry.local && !minted.is_empty()) {
            let bytes = self.package.files[entry.file].read();
            let Ok(text) = bytes.as_deref().map(|bytes| String::from_utf8_lossy(bytes)) else { continue };
            let setting = self.setting_of(entry);
            let compiled = compile(self.path_of(entry), &text, self.scope_of(entry), &setting);
            if let Some(id) = compiled.used.iter().find(|id| minted.contains(id)) {
                let message = format!("`{}` is a secret of the cast", self.scope.name(*id).name);
                let help = "no record holds it: mint another value in the part, or ask for it";
                let path = self.path_of(entry);
                reader.findings.push(Finding::new(path, Span::default(), codes::BAD_PART, message, help));
            }
        }
    }
}

/// Checks the names of the part and of the molds that it fits.
fn check_names(reader: &mut ManifestReader, header: &RawPart, name: &str) {
    if header.name.get_ref() != name {
        let message = format!("this part is in the folder {name}, and is called {:?}", header.name.get_ref());
        reader.add(codes::BAD_PART, header.name.span(), message, "give both the same name");
    }
    for text in [&header.name].into_iter().chain(&header.fits) {
        if let Err(refusal) = Form::Kebab.check(text.get_ref()) {
            let message = format!("{:?} cannot be a name: {}", text.get_ref(), refusal.reason);
            reader.add(codes::BAD_PART, text.span(), message, refusal.advice);
        }
    }
}

fn read_joint(reader: &mut ManifestReader, raw: RawJoint) -> PartJoint {
    let name = raw.name.get_ref();
    if let Err(refusal) = Form::Kebab.check(name) {
        let message = format!("{name:?} cannot be the name of a joint: {}", refusal.reason);
        reader.add(codes::BAD_JOINT, raw.name.span(), message, refusal.advice);
    }
    if raw.lines.is_empty() {
        let help = "write `lines = [\"…\"]`";
        reader.add(codes::BAD_JOINT, raw.name.span(), "this adds no lines at the joint", help);
    }
    let same = raw.same.as_ref().and_then(|same| reader.regex(same.get_ref(), same.span()));
    PartJoint {
        same,
        file: reader.own_text(&raw.file),
        lines: raw.lines.iter().map(|line| reader.own_text(line)).collect(),
        when: raw.when.as_ref().map(|when| reader.own_condition(when)),
        sorted: raw.sorted,
        name: raw.name.into_inner(),
    }
}

fn read_edit(reader: &mut ManifestReader, raw: RawEdit) -> PartEdit {
    if raw.set.is_none() && raw.add.is_none() && raw.remove.is_none() {
        let help = "add `set`, `add` or `remove`";
        reader.add(codes::BAD_EDIT, raw.file.span(), "this changes nothing in the file", help);
    }
    let same = raw.same.as_ref().and_then(|same| reader.regex(same.get_ref(), same.span()));
    let file = reader.own_text(&raw.file);
    let when = raw.when.as_ref().map(|when| reader.own_condition(when));
    let mut table = |raw: Option<Vec<(Placed, Spanned<RawValue>)>>| {
        raw.map(|entries| Piece::Table(pieces(reader, entries)))
    };
    let (set, add, remove) = (table(raw.set), table(raw.add), table(raw.remove));
    PartEdit { file, when, set, add, remove, same }
}

/// Makes snippets of the texts of a table.
fn pieces(
    reader: &mut ManifestReader,
    entries: Vec<(Placed, Spanned<RawValue>)>,
) -> Vec<(crate::Snippet, Piece)> {
    let mut pieces = Vec::with_capacity(entries.len());
    for (key, value) in entries {
        let key = reader.own_text(&key);
        pieces.extend(piece(reader, value).map(|value| (key, value)));
    }
    pieces
}

fn piece(reader: &mut ManifestReader, value: Spanned<RawValue>) -> Option<Piece> {
    let span = value.span();
    Some(match value.into_inner() {
        RawValue::Text(text) => Piece::Text(reader.own_text(&Spanned::new(span, text))),
        RawValue::Integer(number) => Piece::Integer(number),
        RawValue::Float(number) => Piece::Float(number),
        RawValue::Flag(flag) => Piece::Flag(flag),
        RawValue::List(values) => {
            Piece::List(values.into_iter().filter_map(|value| piece(reader, value)).collect())
        }
        RawValue::Table(entries) => Piece::Table(pieces(reader, entries)),
        RawValue::Date(_) => {
            let help = "write it as a text, or put it into the body";
            reader.add(codes::BAD_EDIT, span, "dates cannot be set in a file", help);
            return None;
        }
    })
}
