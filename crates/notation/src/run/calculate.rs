//! The steps that take values from the stack and leave one there.

use super::Machine;
use crate::choices::{Choices, FieldValue};
use crate::finding::Code;
use crate::item::Item;
use crate::program::Op;
use crate::trouble::{Trouble, trouble};
use crate::types::Element;
use crate::views;
use std::cmp::Ordering;

impl<'r> Machine<'r> {
    /// Returns the steps that take values and leave one.
    pub(super) fn calculate(&mut self, op: Op<'r>) -> Result<(), Box<Trouble>> {
        let scope = self.program.scope;
        let result = match op {
            Op::Not => Item::Flag(!self.pop().is_true()),
            Op::Negate => {
                Item::Integer(self.pop().integer().checked_neg().ok_or_else(|| overflow("negation"))?)
            }
            Op::Value => match self.pop() {
                Item::Option(of, Some(at)) => Item::Text(&scope.choices(of).options()[at as usize].value),
                _ => Item::Text(""),
            },
            Op::Label => match self.pop() {
                Item::Option(of, Some(at)) => Item::Text(&scope.choices(of).options()[at as usize].label),
                _ => Item::Text(""),
            },
            Op::Field(of, field) => {
                let option = match self.pop() {
                    Item::Option(_, option) => option,
                    _ => None,
                };
                field_value(scope.choices(of), option, field)
            }
            Op::View(view, count) => {
                let arguments = self.taken(count as usize);
                let on = self.pop();
                let result = views::apply(view, &on, &arguments, scope, &mut |size| self.may_make(size))?;
                self.charge(result.text(scope).len() + result.len() * size_of::<Item<'_>>())?;
                result
            }
            Op::Join => {
                let (right, left) = (self.pop(), self.pop());
                self.charge(left.text(scope).len() + right.text(scope).len())?;
                Item::made([left.text(scope), right.text(scope)].concat())
            }
            Op::Concatenate => {
                let (right, left) = (self.pop(), self.pop());
                self.charge((left.len() + right.len()) * size_of::<Item<'_>>())?;
                Item::List(left.elements().chain(right.elements()).collect())
            }
            Op::Equal | Op::NotEqual => {
                let (right, left) = (self.pop(), self.pop());
                self.charge(left.len())?;
                Item::Flag(left.same(&right, scope) == matches!(op, Op::Equal))
            }
            Op::Less | Op::LessEqual | Op::Greater | Op::GreaterEqual => {
                let (right, left) = (self.pop(), self.pop());
                let order = left.order(&right, scope);
                Item::Flag(match op {
                    Op::Less => order == Ordering::Less,
                    Op::LessEqual => order != Ordering::Greater,
                    Op::Greater => order == Ordering::Greater,
                    _ => order != Ordering::Less,
                })
            }
            Op::In => {
                let (list, wanted) = (self.pop(), self.pop());
                self.charge(list.len())?;
                Item::Flag(list.elements().any(|element| element.same(&wanted, scope)))
            }
            arithmetic => {
                let (right, left) = (self.pop().integer(), self.pop().integer());
                Item::Integer(calculated(arithmetic, left, right)?)
            }
        };
        self.stack.push(result);
        Ok(())
    }
}

fn field_value<'r>(choices: &'r Choices, option: Option<u16>, field: u16) -> Item<'r> {
    match (choices.value_of(option, field), choices.element_of_field(field)) {
        (Some(FieldValue::Text(text)), _) => Item::Text(text),
        (Some(FieldValue::Integer(number)), _) => Item::Integer(*number),
        (Some(FieldValue::Flag(flag)), _) => Item::Flag(*flag),
        (None, Element::Integer) => Item::Integer(0),
        (None, Element::Flag) => Item::Flag(false),
        (None, _) => Item::Text(""),
    }
}

fn overflow(what: &str) -> Box<Trouble> {
    trouble(Code::Overflow, format!("this {what} does not fit 64 bits"))
}

fn calculated(op: Op<'_>, left: i64, right: i64) -> Result<i64, Box<Trouble>> {
    let by_zero = || trouble(Code::DivisionByZero, "this divides by zero");
    match op {
        Op::Add => left.checked_add(right).ok_or_else(|| overflow("sum")),
        Op::Subtract => left.checked_sub(right).ok_or_else(|| overflow("difference")),
        Op::Multiply => left.checked_mul(right).ok_or_else(|| overflow("product")),
        _ if right == 0 => Err(by_zero()),
        Op::Divide => left.checked_div(right).ok_or_else(|| overflow("quotient")),
        _ => left.checked_rem(right).ok_or_else(|| overflow("remainder")),
    }
}
