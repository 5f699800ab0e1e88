//! Names after a dot: members of built-in names, fields of options, views.

use super::{Known, Lower};
use crate::finding::Code;
use crate::nearest::did_you_mean;
use crate::program::Op;
use crate::quoting::Quoting;
use crate::scope::Traits;
use crate::span::Span;
use crate::syntax::expression::{Dotted, ExprId, ExprKind};
use crate::types::{ChoicesId, Element, Type};
use crate::view::{self, Gives, On, Signature, Takes, View};
use crate::views;

impl<'s> Lower<'_, 's> {
    pub(super) fn dotted(&mut self, on: ExprId, dotted: &Dotted<'s>, span: Span) -> Known {
        if let ExprKind::Name(group) = self.kind(on)
            && self.compiler.scope.is_group(group)
            && !self.locals.iter().any(|local| local.name == *group)
        {
            return self.member(group, dotted, span);
        }
        let known = self.value(on);
        match known.of {
            Type::Option { of, .. } => self.field(known, of, dotted),
            Type::Unknown => {
                for argument in dotted.arguments.iter().flatten() {
                    self.value(*argument);
                }
                self.emit(Op::Flag(false));
                Known::plain(Type::Unknown)
            }
            Type::Text => self.view(On::Text, known, dotted, span),
            Type::Integer => self.view(On::Integer, known, dotted, span),
            Type::Flag => self.view(On::Flag, known, dotted, span),
            Type::List(_) => self.view(On::List, known, dotted, span),
        }
    }

    fn member(&mut self, group: &str, dotted: &Dotted<'s>, span: Span) -> Known {
        let scope = self.compiler.scope;
        let full = format!("{group}.{}", dotted.name);
        if let Some(id) = scope.find(&full) {
            self.compiler.used[id.index()] = true;
            self.emit(Op::Name(id));
            let info = scope.name(id);
            if let Some(why) = &info.barred {
                self.findings.add(Code::OutOfPlace, span, format!("`{full}` has no value here"), why.clone());
            }
            if dotted.arguments.is_some() {
                self.no_arguments(dotted);
            }
            return Known { traits: info.traits, ..Known::plain(info.of) };
        }
        self.emit(Op::Flag(false));
        let names = scope.names().iter().map(|name| name.name.as_str());
        let members = names.filter_map(|name| name.split_once('.')).filter(|(first, _)| *first == group);
        let help = did_you_mean(
            dotted.name,
            members.map(|(_, member)| member),
            format!("there are {}", self.members(group)),
        );
        self.findings.unknown_name(&full, dotted.name_span, help);
        Known::plain(Type::Unknown)
    }

    fn no_arguments(&mut self, dotted: &Dotted<'s>) {
        let message = format!("`{}` takes no arguments", dotted.name);
        self.findings.add(Code::WrongArguments, dotted.name_span, message, "leave the parentheses out");
    }

    fn field(&mut self, known: Known, of: ChoicesId, dotted: &Dotted<'s>) -> Known {
        if dotted.arguments.is_some() {
            self.no_arguments(dotted);
        }
        let choices = self.compiler.scope.choices(of);
        let (op, found) = match (dotted.name, choices.field(dotted.name)) {
            ("value", _) => (Op::Value, Type::Text),
            ("label", _) => (Op::Label, Type::Text),
            (_, Some((field, found))) => (Op::Field(of, field), found),
            (name, None) => {
                let fields = || choices.fields().map(|(field, _)| field).chain(["value", "label"]);
                let help = if view::find(On::Text, name).is_some() {
                    format!("views of text need the option's text: `.value.{name}`")
                } else {
                    let all: Vec<_> = fields().map(|field| format!("`{field}`")).collect();
                    did_you_mean(name, fields(), format!("there are {}", all.join(", ")))
                };
                let message = format!("the options of `{}` have no field `{name}`", choices.name());
                self.findings.add(Code::UnknownField, dotted.name_span, message, help);
                (Op::Value, Type::Unknown)
            }
        };
        self.emit(op);
        let traits = Traits { minted: known.traits.minted, ..Traits::default() };
        Known { traits, ..Known::plain(found) }
    }

    fn view(&mut self, on: On, known: Known, dotted: &Dotted<'s>, span: Span) -> Known {
        let name = dotted.name;
        let signature = view::find(on, name).filter(|signature| signature.view != View::Date || known.date);
        let Some(signature) = signature else {
            self.unknown_view(on, known, dotted);
            for argument in dotted.arguments.iter().flatten() {
                self.value(*argument);
            }
            return Known::plain(Type::Unknown);
        };
        let arguments = dotted.arguments.as_deref().unwrap_or_default();
        if arguments.len() != signature.takes.len()
            || (dotted.arguments.is_some() && signature.takes.is_empty())
        {
            let message = match signature.takes.len() {
                0 => format!("`{name}` takes no arguments"),
                1 => format!("`{name}` takes one argument"),
                count => format!("`{name}` takes {count} arguments"),
            };
            let help = if signature.takes.is_empty() {
                "leave the parentheses out"
            } else {
                "write them in parentheses"
            };
            self.findings.add(Code::WrongArguments, dotted.name_span, message, help);
        }
        let mut traits = known.traits;
        for (argument, takes) in arguments.iter().zip(signature.takes) {
            traits = traits.with(self.argument(*argument, *takes, known.of, name));
        }
        if signature.view == View::Date {
            self.date_pattern(arguments);
        }
        self.emit_at(Op::View(signature.view, signature.takes.len() as u8), span);
        Known {
            traits: Traits {
                minted: traits.minted,
                free: traits.free && !signature.cleans,
                lines: traits.lines && !signature.cleans,
                quoted: match signature.view {
                    View::Wrap | View::Trim | View::Indent | View::TextPad | View::Join => traits.quoted,
                    view => Quoting::of(view).filter(|quoting| known.traits.free || quoting.delimits()),
                },
                path: (traits.path && !signature.cleans) || signature.view == View::Dirs,
            },
            ..Known::plain(given(signature, known.of))
        }
    }

    fn argument(&mut self, id: ExprId, takes: Takes, list: Type, view: &str) -> Traits {
        let known = self.value(id);
        match takes {
            Takes::Text => self.expect_argument(known, Type::Text, id, view),
            Takes::Integer => self.expect_argument(known, Type::Integer, id, view),
            Takes::Element => match (list, known.of) {
                (Type::List(Element::Option(of)), Type::Text) => self.known_option(id, of),
                (Type::List(element), of) if element.single().joined(of).is_some() => {}
                (Type::List(element), _) => {
                    self.expect_argument(known, element.single(), id, view);
                }
                _ => {}
            },
        }
        known.traits
    }

    fn date_pattern(&mut self, arguments: &[ExprId]) {
        let Some(ExprKind::Text(pattern)) = arguments.first().map(|id| self.kind(*id)) else { return };
        if views::format_date("2026-11-23", pattern).is_err() {
            let span = self.span(arguments[0]);
            let help = "patterns are those of strftime for a date: %Y %m %d %B %A %j";
            self.findings.add(Code::BadDatePattern, span, "this date pattern means nothing", help);
        }
    }

    fn unknown_view(&mut self, on: On, known: Known, dotted: &Dotted<'s>) {
        let name = dotted.name;
        let what = self.compiler.scope.describe(known.of);
        let help = if name == "date" && on == On::Text {
            "only `today` has it".to_owned()
        } else if let Some(other) = [On::Text, On::List, On::Integer, On::Flag]
            .into_iter()
            .find(|other| *other != on && view::find(*other, name).is_some())
        {
            match other {
                On::Text => "that is a view of texts",
                On::List => "that is a view of lists",
                On::Integer => "that is a view of integers",
                On::Flag => "that is a view of flags",
            }
            .to_owned()
        } else {
            let names = view::names(on);
            did_you_mean(name, names.iter().copied(), format!("there are {}", names.join(", ")))
        };
        let message = format!("{what} has no view `{name}`");
        self.findings.add(Code::UnknownView, dotted.name_span, message, help);
    }
}

fn given(signature: &Signature, on: Type) -> Type {
    match signature.gives {
        Gives::Text => Type::Text,
        Gives::Integer => Type::Integer,
        Gives::Flag => Type::Flag,
        Gives::Texts => Type::List(Element::Text),
        Gives::Element => match on {
            Type::List(element) => element.single(),
            _ => Type::Unknown,
        },
        Gives::Same => on,
    }
}
