//! The machine that runs a program.

use super::PENDING_COMMA;
use super::rounds::Loop;
use super::trace::Recorder;
use crate::budget::{Budget, Purse};
use crate::finding::{Code, Finding};
use crate::item::Item;
use crate::program::{Op, Program};
use crate::trouble::{Trouble, trouble};
use crate::value::Value;
use crate::values::Values;
use smallvec::SmallVec;

pub(crate) struct Machine<'r> {
    pub(super) program: &'r Program<'r>,
    pub(super) values: &'r [Value],
    pub(super) locals: SmallVec<[Item<'r>; 8]>,
    pub(super) base: usize,
    pub(super) stack: SmallVec<[Item<'r>; 8]>,
    pub(super) loops: SmallVec<[Loop<'r>; 2]>,
    pub(super) marks: Vec<usize>,
    pub(super) out: &'r mut Vec<u8>,
    /// Up to where the output is charged.
    charged: usize,
    budget: &'r Budget,
    purse: Purse<'r>,
    pub(super) recorder: Recorder,
    /// The places that were reached, if the program notes them.
    pub(crate) reached: Vec<bool>,
}

/// Texts up to this length are charged together.
pub(super) const SMALL: usize = 4096;

impl<'r> Machine<'r> {
    pub(crate) fn new(
        program: &'r Program<'r>,
        values: &'r Values,
        budget: &'r Budget,
        out: &'r mut Vec<u8>,
    ) -> Self {
        Self {
            program,
            values: values.all(),
            locals: SmallVec::new(),
            base: 0,
            stack: SmallVec::new(),
            loops: SmallVec::new(),
            marks: Vec::new(),
            charged: out.len(),
            out,
            budget,
            purse: budget.purse(),
            recorder: Recorder::off(),
            reached: Vec::new(),
        }
    }

    pub(crate) fn run_root(&mut self) -> Result<(), Finding> {
        self.run(0)
    }

    pub(crate) fn evaluate(&mut self) -> Result<Value, Finding> {
        self.run(0)?;
        Ok(self.pop().to_value())
    }

    pub(super) fn pop(&mut self) -> Item<'r> {
        self.stack.pop().unwrap_or(Item::Flag(false))
    }

    /// Returns the topmost values, the last one on top at the end.
    pub(super) fn taken(&mut self, count: usize) -> Vec<Item<'r>> {
        let from = self.stack.len().saturating_sub(count);
        self.stack.drain(from..).collect()
    }

    #[inline]
    pub(super) fn charge(&mut self, cost: usize) -> Result<(), Box<Trouble>> {
        if self.purse.pay(cost as u64) { Ok(()) } else { Err(self.exhausted()) }
    }

    #[cold]
    fn exhausted(&self) -> Box<Trouble> {
        let message = format!("more than {} steps and bytes are made here", self.budget.limit());
        trouble(Code::LimitReached, message)
    }

    /// Returns true if the budget allows `size` more bytes; nothing is paid yet.
    pub(super) fn may_make(&mut self, size: usize) -> Result<(), Box<Trouble>> {
        if self.purse.holds(size as u64) { Ok(()) } else { Err(self.exhausted()) }
    }

    /// Writes a text. Short texts are paid for when a round or routine ends: until then there are
    /// no more of them than tags in a source.
    #[inline]
    pub(super) fn write(&mut self, text: &str) -> Result<(), Box<Trouble>> {
        if text.len() > SMALL {
            self.charge_output()?;
            self.charge(text.len())?;
            self.out.extend_from_slice(text.as_bytes());
            self.charged = self.out.len();
        } else {
            self.out.extend_from_slice(text.as_bytes());
        }
        Ok(())
    }

    /// Says up to where the output is charged.
    pub(super) fn set_charged(&mut self, length: usize) {
        self.charged = length;
    }

    /// Charges what was put in since the last time.
    #[inline]
    pub(super) fn charge_output(&mut self) -> Result<(), Box<Trouble>> {
        let grown = self.out.len().saturating_sub(self.charged);
        self.charged = self.out.len();
        self.charge(grown)
    }

    pub(super) fn put(&mut self, item: &Item<'r>) -> Result<(), Box<Trouble>> {
        match item {
            Item::Text(text) => self.write(text),
            Item::Integer(number) => self.write(itoa::Buffer::new().format(*number)),
            Item::Flag(flag) => self.write(if *flag { "true" } else { "false" }),
            Item::Made(text) => self.write(text),
            other => self.write(other.text(self.program.scope)),
        }
    }

    #[inline]
    pub(super) fn put_value(&mut self, value: &'r Value) -> Result<(), Box<Trouble>> {
        match value {
            Value::Text(text) => self.write(text),
            other => self.put(&Item::from(other)),
        }
    }

    pub(super) fn own_text(&self, at: u32) -> &'r str {
        let program = self.program;
        &program.texts[at as usize]
    }

    /// Runs a routine whose arguments, if it has any, are in its first locals already.
    pub(super) fn run(&mut self, routine: usize) -> Result<(), Finding> {
        let program = self.program;
        self.locals.resize(self.base + program.routines[routine].locals as usize, Item::Flag(false));
        let ops = program.routines[routine].ops.as_slice();
        let (mut at, mut last) = (0, 0);
        while let Some(op) = ops.get(at) {
            if self.out.len() > self.recorder.to {
                self.came(ops, last, at);
            }
            last = at;
            // The steps that most programs are made of are taken here, the others by a call.
            let written = match *op {
                Op::Text(_) => {
                    at = self.straight(ops, at);
                    continue;
                }
                Op::PutName(name) => self.put_value(&self.values[name.index()]),
                Op::PutTextName(text, name) => {
                    let next = self.straight(ops, at);
                    if next > at {
                        at = next;
                        continue;
                    }
                    self.write(text).and_then(|()| self.put_value(&self.values[name.index()]))
                }
                Op::PutLocalField(local, column) => {
                    let text = self.local_field(local, column);
                    self.write(text)
                }
                Op::PutLocalFieldText(local, column, text) => {
                    let value = self.local_field(local, column);
                    if value.len() <= SMALL {
                        self.out.extend_from_slice(value.as_bytes());
                        self.out.extend_from_slice(text.as_bytes());
                        at += 1;
                        continue;
                    }
                    self.write(value).and_then(|()| self.write(text))
                }
                Op::Rows(rows) => {
                    let list = self.pop();
                    self.rows(&list, &program.routines[routine].rows[rows as usize])
                }
                // A round pays for its steps when it ends.
                Op::NextRound(body) => {
                    match self.charge_output().and_then(|()| self.charge(1 + at - body as usize)) {
                        Ok(()) => {
                            self.next_round();
                            at = body as usize;
                            continue;
                        }
                        trouble => trouble,
                    }
                }
                Op::Round(body) => {
                    match self.charge_output().and_then(|()| self.charge(1 + at - body as usize)) {
                        Ok(()) if self.round() => {
                            at = body as usize;
                            continue;
                        }
                        ended => ended,
                    }
                }
                Op::LeaveIfLast(exit) => {
                    if self.loops.last().is_none_or(Loop::is_last) {
                        self.loops.pop();
                        at = exit as usize;
                        continue;
                    }
                    Ok(())
                }
                Op::Place(placing) => match self.charge(1) {
                    Ok(()) => {
                        self.place(routine, placing as usize, at)?;
                        Ok(())
                    }
                    trouble => trouble,
                },
                op => match self.step(op, at) {
                    Ok(next) => {
                        at = next;
                        continue;
                    }
                    Err(trouble) => Err(trouble),
                },
            };
            if let Err(trouble) = written {
                return Err(program.finding(routine, at, trouble.code, trouble.message));
            }
            at += 1;
        }
        if self.out.len() > self.recorder.to {
            self.came(ops, last, at);
        }
        self.charge_output().map_err(|found| program.finding(routine, at, found.code, found.message))
    }

    /// Runs the steps from `at` on that write texts and short values; returns the next step.
    #[inline]
    fn straight(&mut self, ops: &[Op<'r>], mut at: usize) -> usize {
        let values = self.values;
        // The output is held here while it grows.
        let mut out = std::mem::take(self.out);
        while let Some(op) = ops.get(at) {
            match *op {
                Op::Text(text) => out.extend_from_slice(text.as_bytes()),
                Op::PutTextName(text, name) => match &values[name.index()] {
                    Value::Text(value) if value.len() <= SMALL => {
                        out.extend_from_slice(text.as_bytes());
                        out.extend_from_slice(value.as_bytes());
                    }
                    _ => break,
                },
                _ => break,
            }
            at += 1;
        }
        *self.out = out;
        at
    }

    /// Returns the text field of the option in a local; empty where there is none.
    #[inline]
    fn local_field(&self, local: u16, column: u32) -> &'r str {
        let program = self.program;
        match self.locals[self.base + local as usize] {
            Item::Option(_, Some(option)) => {
                program.columns[column as usize].get(option as usize).copied().unwrap_or("")
            }
            _ => "",
        }
    }

    /// Runs one step and returns the next.
    fn step(&mut self, op: Op<'r>, at: usize) -> Result<usize, Box<Trouble>> {
        self.charge(1)?;
        match op {
            Op::OwnText(text) => self.write(self.own_text(text))?,
            Op::Comma => self.out.push(PENDING_COMMA),
            Op::PutLocal(local) => {
                let item = self.locals[self.base + local as usize].clone();
                self.put(&item)?;
            }
            Op::Put => {
                let item = self.pop();
                self.put(&item)?;
            }
            Op::Open => self.marks.push(self.out.len()),
            Op::Indent(_) | Op::OwnIndent(_) => {
                let prefix = match op {
                    Op::Indent(prefix) => prefix,
                    Op::OwnIndent(prefix) => self.own_text(prefix),
                    _ => "",
                };
                let start = self.marks.pop().unwrap_or(0);
                self.indent_since(start, prefix)?;
            }
            Op::CheckName { path } => self.check_name(path)?,
            Op::Literal(text) => self.stack.push(Item::Text(text)),
            Op::OwnLiteral(text) => self.stack.push(Item::Text(self.own_text(text))),
            Op::Integer(number) => self.stack.push(Item::Integer(number)),
            Op::Flag(flag) => self.stack.push(Item::Flag(flag)),
            Op::OptionLiteral(of, option) => self.stack.push(Item::Option(of, Some(option))),
            Op::Name(name) => self.stack.push(Item::from(&self.values[name.index()])),
            Op::Local(local) => self.stack.push(self.locals[self.base + local as usize].clone()),
            Op::List(length) => {
                self.charge(length as usize * size_of::<Item<'_>>())?;
                let elements = self.taken(length as usize);
                self.stack.push(Item::List(elements.into()));
            }
            Op::Reached(place) => {
                if let Some(reached) = self.reached.get_mut(place as usize) {
                    *reached = true;
                }
            }
            Op::Jump(to) => return Ok(to as usize),
            Op::Unless(to) => {
                if !self.pop().is_true() {
                    return Ok(to as usize);
                }
            }
            Op::And(to) | Op::Or(to) => {
                let stop = matches!(op, Op::Or(_));
                if self.stack.last().is_some_and(|flag| flag.is_true() == stop) {
                    return Ok(to as usize);
                }
                self.stack.pop();
            }
            Op::UnlessOption(local, option, to) => {
                if !matches!(self.locals[self.base + local as usize], Item::Option(_, Some(o)) if o == option)
                {
                    return Ok(to as usize);
                }
            }
            Op::UnlessInteger(local, number, to) => {
                if self.locals[self.base + local as usize].integer() != number {
                    return Ok(to as usize);
                }
            }
            Op::UnlessText(local, text, to) => {
                let wanted = self.own_text(text);
                if self.locals[self.base + local as usize].text(self.program.scope) != wanted {
                    return Ok(to as usize);
                }
            }
            Op::SetLocal(local) => {
                let item = self.pop();
                self.locals[self.base + local as usize] = item;
            }
            Op::For { element, counter, exit } => {
                let list = self.pop();
                if !self.begin_loop(list, element, counter)? {
                    return Ok(exit as usize);
                }
            }
            Op::Keep { again, exit } => {
                let keep = self.pop().is_true();
                if let Some(to) = self.keep(keep, again, exit)? {
                    return Ok(to);
                }
            }
            Op::BetweenText(text) => {
                if self.loops.last().is_some_and(|turn| !turn.is_last()) {
                    self.write(self.own_text(text))?;
                }
            }
            Op::Text(_)
            | Op::PutName(_)
            | Op::PutTextName(..)
            | Op::PutLocalField(..)
            | Op::PutLocalFieldText(..)
            | Op::Round(_)
            | Op::Rows(_)
            | Op::NextRound(_)
            | Op::LeaveIfLast(_)
            | Op::Place(_) => {}
            other => self.calculate(other)?,
        }
        Ok(at + 1)
    }

    fn check_name(&mut self, path: bool) -> Result<(), Box<Trouble>> {
        let start = self.marks.pop().unwrap_or(0);
        let came = &self.out[start..];
        if came.is_empty() {
            return Err(trouble(Code::EmptyInName, "this value is empty, and it names a file or folder"));
        }
        if !path && came.iter().any(|b| matches!(b, b'/' | b'\\')) {
            let shown = String::from_utf8_lossy(came).into_owned();
            return Err(trouble(Code::SlashInName, format!("{shown:?} brings a slash into a name")));
        }
        Ok(())
    }

    /// Puts `prefix` in front of each further non-empty line of what came out since `start`.
    fn indent_since(&mut self, start: usize, prefix: &str) -> Result<(), Box<Trouble>> {
        let breaks = memchr::memchr_iter(b'\n', &self.out[start..]).count();
        if breaks == 0 {
            return Ok(());
        }
        self.charge_output()?;
        self.may_make(breaks.saturating_mul(prefix.len()))?;
        indent_since(self.out, start, prefix);
        Ok(())
    }

    fn place(&mut self, routine: usize, placing: usize, at: usize) -> Result<(), Finding> {
        let program = self.program;
        let placing = &program.routines[routine].placings[placing];
        let line_start = self.out.len();
        let located = |trouble: Box<Trouble>| program.finding(routine, at, trouble.code, trouble.message);
        if placing.alone.is_some() {
            self.write(&placing.indent).map_err(located)?;
        }
        let start = self.out.len();
        let (base, length) = (self.base, self.locals.len());
        self.base = length;
        let arguments = self.taken(placing.arguments as usize);
        self.locals.extend(arguments);
        // The output of a fragment may still be indented; all of it comes from the tag.
        let recorder = std::mem::replace(&mut self.recorder, Recorder::off());
        self.run(placing.routine as usize)?;
        self.recorder = recorder;
        self.locals.truncate(length);
        self.base = base;
        if self.out.len() > start && self.out.last() == Some(&b'\n') {
            self.out.pop();
            if self.out.len() > start && self.out.last() == Some(&b'\r') {
                self.out.pop();
            }
        }
        match placing.alone {
            Some(_) if self.out.len() == start => {
                self.out.truncate(line_start);
                return Ok(());
            }
            _ if placing.indent.is_empty() => {}
            _ => self.indent_since(start, &placing.indent).map_err(located)?,
        }
        self.write(placing.alone.unwrap_or("")).map_err(located)
    }
}

/// Puts `prefix` in front of each further non-empty line of what came out since `start`.
pub(crate) fn indent_since(out: &mut Vec<u8>, start: usize, prefix: &str) {
    let came = out.split_off(start);
    for (number, line) in came.split_inclusive(|b| *b == b'\n').enumerate() {
        if number > 0 && !matches!(line, b"\n" | b"\r\n" | b"") {
            out.extend_from_slice(prefix.as_bytes());
        }
        out.extend_from_slice(line);
    }
}
