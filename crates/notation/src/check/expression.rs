//! Values: names, literals, operators.

use super::{Known, Lower};
use crate::finding::Code;
use crate::nearest::did_you_mean;
use crate::program::Op;
use crate::scope::Traits;
use crate::span::Span;
use crate::syntax::expression::{Binary, ExprId, ExprKind, MatchExpr};
use crate::syntax::tag::CaseValue;
use crate::types::{Element, Type};

impl<'s> Lower<'_, 's> {
    /// Lowers an expression: afterwards its value is on top of the stack.
    pub(crate) fn value(&mut self, id: ExprId) -> Known {
        let span = self.span(id);
        match self.kind(id) {
            ExprKind::Text(text) => {
                let op = match text {
                    std::borrow::Cow::Borrowed(text) => Op::Literal(text),
                    std::borrow::Cow::Owned(text) => Op::OwnLiteral(self.compiler.text(text.as_str())),
                };
                self.emit(op);
                Known::plain(Type::Text)
            }
            ExprKind::Integer(number) => {
                self.emit(Op::Integer(*number));
                Known::plain(Type::Integer)
            }
            ExprKind::Flag(flag) => {
                self.emit(Op::Flag(*flag));
                Known { constant: Some(*flag), ..Known::plain(Type::Flag) }
            }
            ExprKind::Name(name) => self.name(name, span),
            ExprKind::List(elements) => self.list(elements),
            ExprKind::Dotted(on, dotted) => self.dotted(*on, dotted, span),
            ExprKind::Not(operand) => {
                let known = self.condition(*operand);
                self.emit(Op::Not);
                Known { constant: known.constant.map(|flag| !flag), of: Type::Flag, ..known }
            }
            ExprKind::Negative(operand) => {
                let known = self.value(*operand);
                self.expect(known, Type::Integer, *operand, "`-` takes an integer");
                self.emit_at(Op::Negate, span);
                Known { of: Type::Integer, ..known }
            }
            ExprKind::Binary(operator, left, right) => self.binary(*operator, *left, *right, span),
            ExprKind::If(condition, then, otherwise) => self.either(*condition, *then, *otherwise, span),
            ExprKind::Match(chosen) => self.chosen(chosen, span),
            ExprKind::Broken => {
                self.emit(Op::Flag(false));
                Known::plain(Type::Unknown)
            }
        }
    }

    fn expect(&mut self, known: Known, wanted: Type, at: ExprId, message: &str) {
        if known.of != wanted && known.of != Type::Unknown {
            let found = self.compiler.scope.describe(known.of);
            let help = match (wanted, known.of) {
                (Type::Text, Type::Option { .. }) => "take its text: `.value` or `.label`",
                (Type::Text, Type::Integer | Type::Flag) => "make it a text: `.text`",
                _ => "",
            };
            let span = self.span(at);
            self.findings.add(Code::WrongType, span, format!("{message}, and this is {found}"), help);
        }
    }

    pub(crate) fn expect_argument(&mut self, known: Known, wanted: Type, at: ExprId, view: &str) {
        let takes = self.compiler.scope.describe(wanted);
        self.expect(known, wanted, at, &format!("`{view}` takes {takes} here"));
    }

    fn name(&mut self, name: &'s str, span: Span) -> Known {
        if let Some(local) = self.locals.iter().rev().find(|local| local.name == name) {
            let (slot, known) = (local.slot, local.known);
            self.emit(Op::Local(slot));
            return known;
        }
        let scope = self.compiler.scope;
        if let Some(id) = scope.find(name) {
            self.compiler.used[id.index()] = true;
            let info = scope.name(id);
            if let Some(why) = &info.barred {
                self.findings.add(Code::OutOfPlace, span, format!("`{name}` has no value here"), why.clone());
            }
            self.emit(Op::Name(id));
            return Known { of: info.of, traits: info.traits, constant: None, date: info.date };
        }
        self.emit(Op::Flag(false));
        if scope.is_group(name) {
            let members = self.members(name);
            let message = format!("`{name}` is not a value by itself");
            self.findings.add(Code::UnknownName, span, message, format!("there are {members}"));
            return Known::plain(Type::Unknown);
        }
        let locals = self.locals.iter().map(|local| local.name);
        let candidates = scope.names().iter().map(|name| name.name.as_str()).chain(locals);
        let help = did_you_mean(name, candidates, "texts are in quotes; names come from questions and `let`");
        self.findings.unknown_name(name, span, help);
        Known::plain(Type::Unknown)
    }

    /// Returns the built-in names that begin with `group`.
    pub(crate) fn members(&self, group: &str) -> String {
        let names = self.compiler.scope.names().iter().map(|name| name.name.as_str());
        let members = names.filter(|name| name.split_once('.').is_some_and(|(first, _)| first == group));
        members.map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ")
    }

    fn list(&mut self, elements: &[ExprId]) -> Known {
        let mut of = Type::Unknown;
        let mut traits = Traits::default();
        for element in elements {
            let known = self.value(*element);
            traits = traits.with(known.traits);
            let span = self.span(*element);
            if matches!(known.of, Type::List(_)) {
                let help = "lists join with `+`";
                self.findings.add(Code::WrongType, span, "a list cannot hold a list", help);
            } else if let Some(joined) = of.joined(known.of) {
                of = joined;
            } else {
                let (first, this) =
                    (self.compiler.scope.describe(of), self.compiler.scope.describe(known.of));
                let message = format!("the list begins with {first}, and this is {this}");
                self.findings.add(Code::WrongType, span, message, "all elements of a list are of one type");
            }
        }
        self.emit(Op::List(elements.len() as u32));
        Known { traits, ..Known::plain(Type::List(Element::of(of).unwrap_or(Element::Open))) }
    }

    fn either(&mut self, condition: ExprId, then: ExprId, otherwise: ExprId, span: Span) -> Known {
        self.compiler.compared.clear();
        let decides = self.condition(condition);
        let compared = std::mem::take(&mut self.compiler.compared);
        let span_of_else = self.span(otherwise);
        let flags = self.flags_in(condition);
        self.falls_into(span_of_else, compared, flags);
        let skip = self.emit(Op::Unless(0));
        let first = self.value(then);
        let end = self.emit(Op::Jump(0));
        self.land(&[skip]);
        let second = self.value(otherwise);
        self.land(&[end]);
        if let Some(flag) = decides.constant {
            let dead = if flag { otherwise } else { then };
            let dead = self.span(dead);
            self.findings.add(Code::DeadBranch, dead, "this value can never be taken", "");
        }
        let of = first.of.joined(second.of).unwrap_or_else(|| {
            let (a, b) = (self.compiler.scope.describe(first.of), self.compiler.scope.describe(second.of));
            let message = format!("one value is {a}, the other {b}");
            self.findings.add(Code::WrongType, span, message, "both must be of one type");
            Type::Unknown
        });
        let traits = first
            .traits
            .with(second.traits)
            .with(Traits { minted: decides.traits.minted, ..Traits::default() });
        Known { traits, ..Known::plain(of) }
    }

    /// `match … case … then … else …`.
    fn chosen(&mut self, chosen: &MatchExpr<'s>, span: Span) -> Known {
        let all: Vec<&[CaseValue<'s>]> = chosen.cases.iter().map(|case| case.values.as_slice()).collect();
        let otherwise = chosen.otherwise.map(|otherwise| self.span(otherwise));
        let subject = self.subject(span, chosen.subject, &all, otherwise);
        let next = self.next_local;
        let slot = self.hidden_local().unwrap_or(0);
        self.emit(Op::SetLocal(slot));
        let (mut seen, mut to_end) = (Vec::new(), Vec::new());
        let mut known: Option<Known> = None;
        for case in &chosen.cases {
            let skips = self.case(&case.values, slot, subject.of, &mut seen);
            known = Some(self.outcome(known, case.then));
            to_end.push(self.emit(Op::Jump(0)));
            self.land(&skips);
        }
        match chosen.otherwise {
            Some(otherwise) => known = Some(self.outcome(known, otherwise)),
            // Every option has its case; a value is still needed here.
            None => drop(self.emit(Op::Flag(false))),
        }
        self.land(&to_end);
        self.next_local = next;
        let known = known.unwrap_or_else(|| Known::plain(Type::Unknown));
        let minted = known.traits.minted || subject.traits.minted;
        Known { traits: Traits { minted, ..known.traits }, ..Known::plain(known.of) }
    }

    /// Lowers one of the values that a choice is made of; `before` is known of the others.
    fn outcome(&mut self, before: Option<Known>, id: ExprId) -> Known {
        let known = self.value(id);
        let Some(before) = before else { return known };
        let of = before.of.joined(known.of).unwrap_or_else(|| {
            let scope = self.compiler.scope;
            let (first, this) = (scope.describe(before.of), scope.describe(known.of));
            let span = self.span(id);
            let message = format!("the first value is {first}, and this is {this}");
            self.findings.add(Code::WrongType, span, message, "all values of a choice are of one type");
            Type::Unknown
        });
        Known { traits: before.traits.with(known.traits), ..Known::plain(of) }
    }

    fn binary(&mut self, operator: Binary, left: ExprId, right: ExprId, span: Span) -> Known {
        if matches!(operator, Binary::And | Binary::Or) {
            return self.both(operator, left, right);
        }
        let a = self.value(left);
        // Beside an option, a text that is written out becomes an option.
        let b = match (a.of, self.kind(right), operator) {
            (Type::Option { of, .. }, ExprKind::Text(text), Binary::Equal | Binary::NotEqual) => {
                let at = self.span(right);
                let option = self.option_named(text, of, at).unwrap_or(0);
                self.emit(Op::OptionLiteral(of, option));
                Known::plain(a.of)
            }
            _ => self.value(right),
        };
        let traits = a.traits.with(b.traits);
        let flag = Known {
            traits: Traits { minted: traits.minted, ..Traits::default() },
            ..Known::plain(Type::Flag)
        };
        if a.of == Type::Unknown || b.of == Type::Unknown {
            self.emit(Op::Equal);
            return if binds_flags(operator) { flag } else { Known::plain(Type::Unknown) };
        }
        if let (Type::Option { of, .. }, Binary::Equal | Binary::In, Some(_)) =
            (a.of, operator, &self.compiler.audit)
        {
            self.compiler.compared.push(of);
            self.compiler.audit.iter_mut().for_each(|audit| audit.compared.push(of));
        }
        match operator {
            Binary::Equal | Binary::NotEqual => {
                self.comparable(left, a, right, b, span);
                self.emit(if operator == Binary::Equal { Op::Equal } else { Op::NotEqual });
                flag
            }
            Binary::In | Binary::NotIn => {
                self.contained(left, a, right, b, span);
                self.emit(Op::In);
                if operator == Binary::NotIn {
                    self.emit(Op::Not);
                }
                flag
            }
            Binary::Less | Binary::LessEqual | Binary::Greater | Binary::GreaterEqual => {
                if a.of != b.of || !matches!(a.of, Type::Integer | Type::Text) {
                    self.do_not_fit(operator, a, b, span, "two integers or two texts have an order");
                }
                self.emit(match operator {
                    Binary::Less => Op::Less,
                    Binary::LessEqual => Op::LessEqual,
                    Binary::Greater => Op::Greater,
                    _ => Op::GreaterEqual,
                });
                flag
            }
            Binary::Plus => {
                let of = match (a.of, b.of) {
                    (Type::Integer, Type::Integer) => {
                        self.emit_at(Op::Add, span);
                        Type::Integer
                    }
                    (Type::Text, Type::Text) => {
                        self.emit_at(Op::Join, span);
                        Type::Text
                    }
                    (Type::List(_), Type::List(_)) if a.of.joined(b.of).is_some() => {
                        self.emit_at(Op::Concatenate, span);
                        a.of.joined(b.of).unwrap_or(a.of)
                    }
                    _ => {
                        let help = "`+` joins two integers, two texts or two lists: make a text with `.text` or `.value`";
                        self.do_not_fit(operator, a, b, span, help);
                        Type::Unknown
                    }
                };
                Known { traits, ..Known::plain(of) }
            }
            _ => {
                if (a.of, b.of) != (Type::Integer, Type::Integer) {
                    self.do_not_fit(operator, a, b, span, "arithmetic is for integers");
                }
                let op = match operator {
                    Binary::Minus => Op::Subtract,
                    Binary::Times => Op::Multiply,
                    Binary::Divided => Op::Divide,
                    _ => Op::Remainder,
                };
                self.emit_at(op, span);
                Known { traits, ..Known::plain(Type::Integer) }
            }
        }
    }

    fn both(&mut self, operator: Binary, left: ExprId, right: ExprId) -> Known {
        let a = self.condition(left);
        let is_and = operator == Binary::And;
        let jump = self.emit(if is_and { Op::And(0) } else { Op::Or(0) });
        let b = self.condition(right);
        self.land(&[jump]);
        let constant = match (a.constant, b.constant) {
            (Some(flag), _) | (_, Some(flag)) if flag != is_and => Some(!is_and),
            (Some(_), Some(_)) => Some(is_and),
            _ => None,
        };
        Known { constant, traits: a.traits.with(b.traits), ..Known::plain(Type::Flag) }
    }

    fn do_not_fit(&mut self, operator: Binary, a: Known, b: Known, span: Span, help: &str) {
        let scope = self.compiler.scope;
        let (a, b) = (scope.describe(a.of), scope.describe(b.of));
        let message = format!("`{}` does not fit {a} and {b}", operator.as_str());
        self.findings.add(Code::WrongType, span, message, help);
    }

    fn comparable(&mut self, left: ExprId, a: Known, right: ExprId, b: Known, span: Span) {
        match (a.of, b.of) {
            (Type::Option { of, .. }, Type::Text) => self.known_option(right, of),
            (Type::Text, Type::Option { of, .. }) => self.known_option(left, of),
            (a_type, b_type) if a_type.joined(b_type).is_some() => {}
            _ => self.do_not_fit(Binary::Equal, a, b, span, "only values of one type are compared"),
        }
    }

    /// A text written out where an option is meant must be one of the options.
    pub(crate) fn known_option(&mut self, id: ExprId, of: crate::types::ChoicesId) {
        if let ExprKind::Text(text) = self.kind(id) {
            let span = self.span(id);
            self.option_named(text, of, span);
        }
    }

    fn contained(&mut self, left: ExprId, a: Known, right: ExprId, b: Known, span: Span) {
        match (a.of, b.of) {
            (Type::Text, Type::List(Element::Option(of))) => self.known_option(left, of),
            (Type::Option { of, .. }, Type::List(Element::Text)) => {
                if let ExprKind::List(elements) = self.kind(right) {
                    elements.iter().for_each(|element| self.known_option(*element, of));
                }
            }
            (of, Type::List(element)) if of.joined(element.single()).is_some() => {}
            _ => {
                let help = match b.of {
                    Type::Text => "a text is searched with `.has(…)`",
                    _ => "a value is looked up in a list of its type",
                };
                self.do_not_fit(Binary::In, a, b, span, help);
            }
        }
    }
}

fn binds_flags(operator: Binary) -> bool {
    !matches!(operator, Binary::Plus | Binary::Minus | Binary::Times | Binary::Divided | Binary::Remainder)
}
