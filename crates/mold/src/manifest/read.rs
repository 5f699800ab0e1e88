//! From TOML to the raw manifest of a mold or a part.

use super::fields::{Errors, Fields, ShapeError, ShapeErrorKind};
use super::raw::{
    DerivedEntry, FilesEntry, FinishEntry, Header, LayerManifest, Manifest, NeedEntry, Owner, PartManifest,
    RawEdit, RawJoint, RawKind, RawLayer, RawOption, RawPart, RawPreset, RawQuestion, TourEntry,
};
use crate::formats::Holds;
use toml::de::DeTable;

/// Reads `mold.toml`.
///
/// # Errors
/// Every mistake of its shape, sorted by position.
pub fn read_manifest(source: &str) -> Result<Manifest, Vec<ShapeError>> {
    read(source, |top| {
        let mold = top.required_table("mold").and_then(header);
        let marks = top.table("notation").and_then(|notation| {
            let marks = notation.pair("marks");
            notation.finish();
            marks
        });
        let question = top.tables("question", question);
        let derive = derive(&top);
        let files = top.tables("files", files);
        let need = top.tables("need", need);
        let finish = top.tables("finish", finish);
        let tour = top.tables("tour", tour);
        let next = next(&top);
        let preset = top.table_entries("preset", preset);
        let layer = top.tables("layer", layer);
        top.finish();
        Some(Manifest {
            mold: mold?,
            marks,
            question,
            derive,
            files,
            need,
            finish,
            tour,
            next,
            preset,
            layer,
        })
    })
}

/// Reads `layer.toml`.
///
/// # Errors
/// Every mistake of its shape, sorted by position.
pub fn read_layer_manifest(source: &str) -> Result<LayerManifest, Vec<ShapeError>> {
    read(source, |top| {
        // What it is for, in a line: for people who read it.
        if let Some(header) = top.table("layer") {
            header.required_text("summary");
            header.finish();
        }
        let question = top.tables("question", question);
        let derive = derive(&top);
        let files = top.tables("files", files);
        let need = top.tables("need", need);
        let finish = top.tables("finish", finish);
        let tour = top.tables("tour", tour);
        top.finish();
        Some(LayerManifest { question, derive, files, need, finish, tour })
    })
}

/// Reads `part.toml`.
///
/// # Errors
/// Every mistake of its shape, sorted by position.
pub fn read_part_manifest(source: &str) -> Result<PartManifest, Vec<ShapeError>> {
    read(source, |top| {
        let part = top.required_table("part").and_then(part);
        let question = top.tables("question", question);
        let derive = derive(&top);
        let files = top.tables("files", files);
        let joint = top.tables("joint", joint);
        let edit = top.tables("edit", edit);
        let next = next(&top);
        top.finish();
        Some(PartManifest { part: part?, question, derive, files, joint, edit, next })
    })
}

fn read<T>(source: &str, shape: impl FnOnce(Fields<'_, '_>) -> Option<T>) -> Result<T, Vec<ShapeError>> {
    let (table, broken) = DeTable::parse_recoverable(source);
    if !broken.is_empty() {
        let broken = broken.into_iter().map(|error| ShapeError {
            span: error.span().unwrap_or(0..0),
            kind: ShapeErrorKind::NotToml(error.message().lines().collect::<Vec<_>>().join(": ")),
        });
        return Err(broken.collect());
    }
    let errors = Errors::default();
    let read = shape(Fields::new(table.get_ref(), 0..0, &errors));
    let mut errors = errors.into_inner();
    match read {
        Some(read) if errors.is_empty() => Ok(read),
        _ => {
            errors.sort_by_key(|error| error.span.start);
            Err(errors)
        }
    }
}

fn layer(fields: Fields<'_, '_>) -> Option<RawLayer> {
    let from = fields.required_text("from");
    let after = fields.text("after");
    let answers = fields.value_entries("answers");
    let without = fields.texts("without");
    fields.finish();
    Some(RawLayer { from: from?, after, answers, without })
}

fn header(fields: Fields<'_, '_>) -> Option<Header> {
    let name = fields.required_text("name");
    let version = fields.required_text("version");
    let summary = fields.required_text("summary");
    let released = fields.date("released");
    let owner = fields.text("owner");
    let (language, kind, tags) = (fields.words("language"), fields.words("kind"), fields.words("tags"));
    let tinmold = fields.text("tinmold");
    let folder = fields.text("folder");
    fields.finish();
    Some(Header {
        name: name?,
        version: version?,
        summary: summary?,
        released,
        owner,
        language,
        kind,
        tags,
        tinmold,
        folder,
    })
}

fn question(fields: Fields<'_, '_>) -> Option<RawQuestion> {
    let key = fields.required_text("key");
    let words = [
        ("text", RawKind::Text),
        ("texts", RawKind::Texts),
        ("flag", RawKind::Flag),
        ("integer", RawKind::Integer),
        ("one-of", RawKind::OneOf),
        ("some-of", RawKind::SomeOf),
        ("minted", RawKind::Minted),
    ];
    let kind = fields.required("kind", fields.word("kind", &words));
    let ask = fields.text("ask");
    let help = fields.text("help");
    let group = fields.text("group");
    let form = fields.text("form");
    let default = fields.value("default");
    let hidden = fields.value("hidden");
    let when = fields.text("when");
    let from_folder = fields.flag("from-folder").unwrap_or_default();
    let from_tool = fields.text("from-tool");
    let detail = fields.flag("detail").unwrap_or_default();
    let secret = fields.flag("secret").unwrap_or_default();
    let optional = fields.flag("optional").unwrap_or_default();
    let min = fields.integer("min", i64::MIN, i64::MAX);
    let max = fields.integer("max", i64::MIN, i64::MAX);
    let pattern = fields.text("pattern");
    let pattern_help = fields.text("pattern-help").map(toml::Spanned::into_inner);
    let except = fields.texts("except");
    let length = fields.integer("length", 0, i64::from(u16::MAX));
    let was = fields.one_or_more("was");
    let example = fields.value("example");
    let option = fields.tables("option", option);
    fields.finish();
    Some(RawQuestion {
        key: key?,
        kind: kind?,
        ask,
        help,
        group,
        form,
        default,
        hidden,
        when,
        from_folder,
        from_tool,
        detail,
        secret,
        optional,
        min,
        max,
        pattern,
        pattern_help,
        except,
        length,
        example,
        was,
        option,
        origin: 0,
        settled: None,
    })
}

fn option(fields: Fields<'_, '_>) -> Option<RawOption> {
    let value = fields.required_text("value");
    let label = fields.text("label");
    let note = fields.text("note");
    let more = fields.text("more");
    let when = fields.text("when");
    let group = fields.text("group");
    let requires = fields.texts("requires");
    let excludes = fields.texts("excludes");
    let was = fields.one_or_more("was");
    let with = fields.value_entries("with");
    fields.finish();
    Some(RawOption { value: value?, label, note, more, when, group, requires, excludes, was, with })
}

fn derive(top: &Fields<'_, '_>) -> Vec<DerivedEntry> {
    let entries = top.entries("derive").into_iter();
    entries
        .filter_map(|(key, value)| {
            let (text, is_expression) = top.text_or_expression(value)?;
            Some(DerivedEntry { key, text, is_expression, origin: 0 })
        })
        .collect()
}

fn files(fields: Fields<'_, '_>) -> Option<FilesEntry> {
    let pattern = fields.required_text("match");
    let when = fields.text("when");
    let copy = fields.flag("copy");
    let parse = fields.flag("parse");
    let owner = fields.word("owner", &[("mold", Owner::Mold), ("you", Owner::You)]);
    let local = fields.flag("local");
    let marks = fields.pair("marks");
    let each = fields.text("each");
    let holds = fields.word("holds", Holds::WORDS);
    let was = fields.one_or_more("was");
    fields.finish();
    Some(FilesEntry {
        pattern: pattern?,
        when,
        copy,
        parse,
        owner: owner.map(toml::Spanned::into_inner),
        local,
        marks,
        each,
        holds: holds.map(toml::Spanned::into_inner),
        was,
        origin: 0,
    })
}

fn need(fields: Fields<'_, '_>) -> Option<NeedEntry> {
    let tool = fields.required_text("tool");
    let version = fields.text("version");
    let why = fields.text("why").map(toml::Spanned::into_inner);
    let when = fields.text("when");
    let get = fields.text_entries("get").into_iter();
    let get = get.map(|(system, hint)| (system.into_inner(), hint.into_inner())).collect();
    fields.finish();
    Some(NeedEntry { tool: tool?, version, why, when, get, origin: 0 })
}

fn finish(fields: Fields<'_, '_>) -> Option<FinishEntry> {
    let name = fields.required_text("name");
    let label = fields.text("label").map(toml::Spanned::into_inner);
    let run = fields.optional_texts("run");
    let git = fields.text("git");
    let when = fields.text("when");
    let tick = fields.flag("tick").unwrap_or_default();
    let folder = fields.text("folder");
    let environment = fields.text_entries("environment").into_iter();
    let environment = environment.map(|(name, value)| (name.into_inner(), value)).collect();
    let after = fields.texts("after");
    let minutes = fields.integer("minutes", 1, 24 * 60).and_then(|n| u64::try_from(n.into_inner()).ok());
    let interactive = fields.flag("interactive").unwrap_or_default();
    let proof = fields.flag("proof").unwrap_or_default();
    let asks = fields.text("asks");
    let offered = fields.flag("offered").unwrap_or(true);
    let network = fields.flag_or_text("network");
    fields.finish();
    Some(FinishEntry {
        name: name?,
        label,
        run,
        git,
        when,
        tick,
        folder,
        environment,
        after,
        minutes,
        interactive,
        proof,
        asks,
        offered,
        network,
        origin: 0,
    })
}

fn tour(fields: Fields<'_, '_>) -> Option<TourEntry> {
    let path = fields.required_text("path");
    let says = fields.required_text("says");
    fields.finish();
    Some(TourEntry { path: path?, says: says?, origin: 0 })
}

fn next(top: &Fields<'_, '_>) -> Vec<super::Placed> {
    let Some(next) = top.table("next") else { return Vec::new() };
    let lines = next.texts("lines");
    next.finish();
    lines
}

fn preset(fields: Fields<'_, '_>) -> RawPreset {
    let summary = fields.text("summary").map(toml::Spanned::into_inner).unwrap_or_default();
    let answers = fields.value_entries("answers");
    fields.finish();
    RawPreset { summary, answers }
}

fn part(fields: Fields<'_, '_>) -> Option<RawPart> {
    let name = fields.required_text("name");
    let summary = fields.required_text("summary");
    let when = fields.text("when");
    let fits = fields.texts("fits");
    let anywhere = fields.flag("anywhere").unwrap_or_default();
    let was = fields.one_or_more("was");
    let network = fields.flag_or_text("network");
    fields.finish();
    Some(RawPart { name: name?, summary: summary?, when, fits, anywhere, was, network })
}

fn joint(fields: Fields<'_, '_>) -> Option<RawJoint> {
    let file = fields.required_text("file");
    let name = fields.required_text("name");
    let lines = fields.required("lines", Some(fields.texts("lines")));
    let when = fields.text("when");
    let sorted = fields.flag("sorted").unwrap_or_default();
    let same = fields.text("same");
    fields.finish();
    Some(RawJoint { file: file?, name: name?, lines: lines?, when, sorted, same })
}

fn edit(fields: Fields<'_, '_>) -> Option<RawEdit> {
    let file = fields.required_text("file");
    let when = fields.text("when");
    let table = |key| fields.has(key).then(|| fields.value_entries(key));
    let (set, add, remove) = (table("set"), table("add"), table("remove"));
    let same = fields.text("same");
    fields.finish();
    Some(RawEdit { file: file?, when, set, add, remove, same })
}
