//! Takes layers into a mold: their entries come among those of its manifest, as if they stood there.

use super::context::{ManifestReader, manifest_text};
use crate::codes;
use crate::manifest::{LayerManifest, Manifest, RawLayer, RawQuestion, read_layer_manifest};
use crate::model::Layer;
use crate::package::{Package, PackageError, layer_name};
use tinmold_notation::did_you_mean;

/// Adds what the layers of a manifest hold to it, and returns the layers.
///
/// # Errors
/// A file of a layer cannot be read.
pub(super) fn merge(
    reader: &mut ManifestReader,
    manifest: &mut Manifest,
    package: &Package,
) -> Result<Vec<Layer>, PackageError> {
    let mut layers: Vec<Layer> = Vec::new();
    let mut rules = Vec::new();
    for raw in std::mem::take(&mut manifest.layer) {
        let from = raw.from.get_ref();
        let Some(name) = layer_name(from) else {
            let help = "write a path from the folder of the mold: `../layers/licence`";
            reader.add(codes::BAD_LAYER, raw.from.span(), "this cannot be the path of a layer", help);
            continue;
        };
        if layers.iter().any(|layer| layer.name == name) {
            let help = "the last part of its path is the name of a layer: rename one of them";
            reader.add(codes::BAD_LAYER, raw.from.span(), format!("there are two layers `{name}`"), help);
            continue;
        }
        let path = format!("layers/{name}/layer.toml");
        if package.file(&path).is_none() {
            let message = format!("there is no layer at {from}");
            let help = "a layer is a folder with `layer.toml`; the path begins in the folder of the mold";
            reader.add(codes::BAD_LAYER, raw.from.span(), message, help);
            continue;
        }
        let source = match manifest_text(package, &path)? {
            Ok(source) => source,
            Err(finding) => {
                reader.findings.push(finding);
                continue;
            }
        };
        let origin = reader.add_manifest(&source, &path);
        match read_layer_manifest(&source) {
            Ok(layer) => {
                rules.extend(take(reader, manifest, layer, &raw, origin));
                layers.push(Layer {
                    name,
                    without: raw.without.iter().map(|it| it.get_ref().clone()).collect(),
                });
            }
            Err(errors) => {
                reader.enter(origin);
                reader.add_shape_errors(errors);
                reader.enter(0);
            }
        }
    }
    // Of two entries for one file the last one wins: that of the mold.
    rules.append(&mut manifest.files);
    manifest.files = rules;
    Ok(layers)
}

/// Adds the entries of a layer to the manifest; returns its entries of `[[files]]`.
fn take(
    reader: &mut ManifestReader,
    manifest: &mut Manifest,
    layer: LayerManifest,
    raw: &RawLayer,
    origin: usize,
) -> Vec<crate::manifest::FilesEntry> {
    let LayerManifest { mut question, mut derive, mut files, mut need, mut finish, mut tour } = layer;
    let is_left_out = |key: &str| raw.without.iter().any(|without| without.get_ref() == key);
    question.retain(|question| !is_left_out(question.key.get_ref()));
    derive.retain(|derived| !is_left_out(derived.key.get_ref()));
    settle(reader, &mut question, raw);
    question.iter_mut().for_each(|it| it.origin = origin);
    derive.iter_mut().for_each(|it| it.origin = origin);
    files.iter_mut().for_each(|it| it.origin = origin);
    need.iter_mut().for_each(|it| it.origin = origin);
    finish.iter_mut().for_each(|it| it.origin = origin);
    tour.iter_mut().for_each(|it| it.origin = origin);
    let at = match &raw.after {
        None => manifest.question.len(),
        Some(after) => match manifest.question.iter().position(|it| it.key.get_ref() == after.get_ref()) {
            // Behind those of layers that come after the same question.
            Some(at) => {
                let others = manifest.question[at + 1..].iter().take_while(|it| it.origin != 0);
                at + 1 + others.count()
            }
            None => {
                let keys = manifest.question.iter().map(|it| it.key.get_ref().as_str());
                let help = did_you_mean(after.get_ref(), keys, "`after` names a question of the mold");
                let message = format!("no question has the key `{}`", after.get_ref());
                reader.add(codes::BAD_LAYER, after.span(), message, help);
                manifest.question.len()
            }
        },
    };
    manifest.question.splice(at..at, question);
    manifest.derive.extend(derive);
    manifest.need.extend(need);
    manifest.finish.extend(finish);
    manifest.tour.extend(tour);
    files
}

/// Gives questions of a layer the answers of the mold.
fn settle(reader: &mut ManifestReader, questions: &mut [RawQuestion], raw: &RawLayer) {
    for (key, value) in &raw.answers {
        let asked = questions.iter_mut().find(|question| question.key.get_ref() == key.get_ref());
        match asked {
            Some(question) => question.settled = Some(value.clone()),
            None => {
                let keys = questions.iter().map(|question| question.key.get_ref().as_str());
                let help = did_you_mean(key.get_ref(), keys, "`answers` answers questions of the layer");
                let message = format!("the layer has no question `{}`", key.get_ref());
                reader.add(codes::BAD_LAYER, key.span(), message, help);
            }
        }
    }
}
