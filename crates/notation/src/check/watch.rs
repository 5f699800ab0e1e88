//! What is watched while a source is lowered: places that a rendering reaches, and text without its quoting.

use super::Lower;
use crate::finding::Code;
use crate::observed::{Place, PlaceKind};
use crate::program::Op;
use crate::scope::{NameId, Traits};
use crate::span::Span;
use crate::syntax::expression::{Binary, ExprId, ExprKind};
use crate::syntax::tree::Block;
use std::sync::Arc;

impl<'s> Lower<'_, 's> {
    /// Lowers a block that is taken or not, which the tag at `tag` begins and the one at `next` ends.
    pub(crate) fn branch(&mut self, tag: Span, next: Span, block: &Block<'s>) {
        if self.compiler.places.is_some() {
            let content = Span { start: tag.end, end: next.start.max(tag.end) };
            let deciding = self.compiler.deciding.clone();
            let is_case = tag
                .of(self.source)
                .trim_start_matches(self.compiler.setting.marks.open())
                .trim_start()
                .starts_with("case");
            self.cover(PlaceKind::Branch { content, deciding, is_case }, tag);
        }
        self.block(block);
    }

    /// Notes that an expression decides about what is compiled next.
    pub(crate) fn decide(&mut self, id: ExprId) {
        if self.compiler.places.is_none() {
            return;
        }
        let mut open = vec![id];
        while let Some(id) = open.pop() {
            let kind = self.kind(id);
            if matches!(kind, ExprKind::Name(name) if self.locals.iter().any(|local| local.name == *name)) {
                self.compiler.deciding = None;
            }
            open.extend(kind.parts());
        }
        let (expressions, scope) = (self.expressions, self.compiler.scope);
        if let Some(deciding) = &mut self.compiler.deciding {
            deciding.add(expressions, id, scope);
        }
    }

    /// Emits a step that notes that a place was reached.
    pub(crate) fn cover(&mut self, kind: PlaceKind, span: Span) {
        if let Some(places) = &mut self.compiler.places {
            places.push(Place { file: Arc::clone(&self.findings.file), span, kind });
            let at = places.len() as u32 - 1;
            self.emit(Op::Reached(at));
        }
    }

    /// Returns the names of the scope whose values an expression consists of, if only views are between.
    pub(super) fn printed(&self, id: ExprId) -> Vec<NameId> {
        match self.kind(id) {
            ExprKind::Name(name) if !self.locals.iter().any(|local| local.name == *name) => {
                self.compiler.scope.find(name).into_iter().collect()
            }
            ExprKind::Dotted(on, dotted)
                if !matches!(dotted.name, "len" | "empty" | "has" | "starts" | "ends") =>
            {
                self.printed(*on)
            }
            ExprKind::Binary(Binary::Plus, left, right) => {
                [self.printed(*left), self.printed(*right)].concat()
            }
            _ => Vec::new(),
        }
    }

    /// Reports free text without quoting, and text that is quoted for another language.
    pub(super) fn quoting(&mut self, traits: Traits, span: Span) {
        let syntax = self.compiler.setting.syntax;
        let (Some(best), kind) = (syntax.quoting().first(), syntax.as_str()) else { return };
        if self.compiler.setting.name || !(traits.free || traits.quoted.is_some()) {
            return;
        }
        let before = &self.source[..(span.start as usize).min(self.source.len())];
        let line = before.rfind('\n').map_or(before, |at| &before[at + 1..]);
        if !traits.lines && syntax.begins_comment(line) {
            return;
        }
        match traits.quoted {
            Some(quoted) if syntax.quoting().contains(&quoted) => {}
            Some(quoted) => {
                let message = format!("this is quoted with `.{}`, and the file is {kind}", quoted.view());
                let help = format!("write `.{}` instead", best.view());
                self.findings.add(Code::WrongQuoting, span, message, help);
            }
            None => {
                let message = format!("free text is written into a {kind} file without quoting");
                let help =
                    format!("write `.{}` after it; a quote in the answer would break the file", best.view());
                self.findings.add(Code::UnquotedText, span, message, help);
            }
        }
    }
}
