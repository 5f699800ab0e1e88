//! Reads typed keys from a TOML table and collects every mistake of its shape.

use super::raw::{Placed, RawValue};
use std::borrow::Cow;
use std::cell::RefCell;
use std::ops::Range;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// A mistake in the shape of a manifest.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ShapeError {
    /// The bytes of the manifest where it is.
    pub span: Range<usize>,
    /// The mistake.
    pub kind: ShapeErrorKind,
}

/// The most entries of a list of tables, which the reader holds against each other.
const MOST_ENTRIES: usize = 5_000;

/// A mistake in the shape of a manifest.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ShapeErrorKind {
    /// The text is not TOML; the parser's message.
    NotToml(String),
    /// The table has no key of this name.
    UnknownKey {
        /// The key.
        key: String,
        /// The keys that the table has.
        known: Vec<&'static str>,
    },
    /// A required key is missing.
    MissingKey(&'static str),
    /// The value has another type.
    WrongType {
        /// The type that is required.
        wanted: &'static str,
        /// The type that was found.
        found: &'static str,
    },
    /// The text is none of the words that the key takes.
    UnknownWord {
        /// The text.
        word: String,
        /// The words that the key takes.
        known: Vec<&'static str>,
    },
    /// A list or table has too many entries.
    TooMany {
        /// The largest number.
        most: usize,
    },
    /// The integer does not fit its key.
    OutOfRange {
        /// The smallest value.
        least: i64,
        /// The largest value.
        most: i64,
    },
}

/// The mistakes found so far.
pub(super) type Errors = RefCell<Vec<ShapeError>>;

/// A table of a manifest. [`Fields::finish`] reports the keys that were not read.
pub(super) struct Fields<'a, 'd> {
    table: &'a DeTable<'d>,
    span: Range<usize>,
    known: RefCell<Vec<&'static str>>,
    errors: &'a Errors,
}

impl<'a, 'd> Fields<'a, 'd> {
    /// Starts to read the table at `span`.
    pub(super) fn new(table: &'a DeTable<'d>, span: Range<usize>, errors: &'a Errors) -> Self {
        Self { table, span, known: RefCell::default(), errors }
    }

    fn report(&self, span: Range<usize>, kind: ShapeErrorKind) {
        self.errors.borrow_mut().push(ShapeError { span, kind });
    }

    fn wrong_type(&self, value: &Spanned<DeValue<'_>>, wanted: &'static str) {
        let found = type_name(value.get_ref());
        self.report(value.span(), ShapeErrorKind::WrongType { wanted, found });
    }

    fn get(&self, key: &'static str) -> Option<&'a Spanned<DeValue<'d>>> {
        let mut known = self.known.borrow_mut();
        if !known.contains(&key) {
            known.push(key);
        }
        drop(known);
        self.table.get(key)
    }

    /// Reports a missing key unless there is a value.
    pub(super) fn required<T>(&self, key: &'static str, value: Option<T>) -> Option<T> {
        if !self.table.contains_key(key) {
            self.report(self.span.clone(), ShapeErrorKind::MissingKey(key));
        }
        value
    }

    /// Reads a text.
    pub(super) fn text(&self, key: &'static str) -> Option<Placed> {
        self.text_of(self.get(key)?)
    }

    fn text_of(&self, value: &Spanned<DeValue<'_>>) -> Option<Placed> {
        match value.get_ref() {
            DeValue::String(text) => Some(Spanned::new(value.span(), text.clone().into_owned())),
            _ => {
                self.wrong_type(value, "a text");
                None
            }
        }
    }

    /// Reads an integer, which must fit 64 bits.
    fn integer_of(&self, value: &Spanned<DeValue<'_>>, least: i64, most: i64) -> Option<i64> {
        let Some(number) = value.get_ref().as_integer() else {
            self.wrong_type(value, "an integer");
            return None;
        };
        let number = i64::from_str_radix(number.as_str(), number.radix()).ok();
        let number = number.filter(|number| (least..=most).contains(number));
        if number.is_none() {
            self.report(value.span(), ShapeErrorKind::OutOfRange { least, most });
        }
        number
    }

    /// Reads a value of any type; a mistake in it is reported and left out.
    fn value_of(&self, value: &Spanned<DeValue<'_>>) -> Option<Spanned<RawValue>> {
        let raw = match value.get_ref() {
            DeValue::String(text) => RawValue::Text(text.clone().into_owned()),
            DeValue::Integer(_) => RawValue::Integer(self.integer_of(value, i64::MIN, i64::MAX)?),
            DeValue::Float(number) => RawValue::Float(number.as_str().parse().unwrap_or(f64::NAN)),
            DeValue::Boolean(flag) => RawValue::Flag(*flag),
            DeValue::Datetime(date) => RawValue::Date(*date),
            DeValue::Array(elements) => {
                RawValue::List(elements.iter().filter_map(|element| self.value_of(element)).collect())
            }
            DeValue::Table(table) => {
                let entries =
                    table.iter().filter_map(|(key, value)| Some((placed(key), self.value_of(value)?)));
                RawValue::Table(entries.collect())
            }
        };
        Some(Spanned::new(value.span(), raw))
    }

    /// Reads a text that must be there.
    pub(super) fn required_text(&self, key: &'static str) -> Option<Placed> {
        self.required(key, self.text(key))
    }

    /// Reads `true` or `false`.
    pub(super) fn flag(&self, key: &'static str) -> Option<bool> {
        let value = self.get(key)?;
        let flag = value.get_ref().as_bool();
        if flag.is_none() {
            self.wrong_type(value, "true or false");
        }
        flag
    }

    /// Reads a condition: `true` or `false`, or a text.
    pub(super) fn flag_or_text(&self, key: &'static str) -> Option<Placed> {
        match self.get(key)?.get_ref() {
            DeValue::Boolean(flag) => Some(Spanned::new(self.get(key)?.span(), flag.to_string())),
            _ => self.text(key),
        }
    }

    /// Reads an integer from `least` to `most`.
    pub(super) fn integer(&self, key: &'static str, least: i64, most: i64) -> Option<Spanned<i64>> {
        let value = self.get(key)?;
        Some(Spanned::new(value.span(), self.integer_of(value, least, most)?))
    }

    /// Reads a date.
    pub(super) fn date(&self, key: &'static str) -> Option<toml::value::Datetime> {
        let value = self.get(key)?;
        let date = value.get_ref().as_datetime().copied();
        if date.is_none() {
            self.wrong_type(value, "a date");
        }
        date
    }

    fn elements(&self, key: &'static str, wanted: &'static str) -> &'a [Spanned<DeValue<'d>>] {
        match self.get(key) {
            None => &[],
            Some(value) => match value.get_ref() {
                DeValue::Array(elements) => elements,
                _ => {
                    self.wrong_type(value, wanted);
                    &[]
                }
            },
        }
    }

    /// Reads a list of texts; empty if the key is not there.
    pub(super) fn texts(&self, key: &'static str) -> Vec<Placed> {
        self.elements(key, "a list of texts").iter().filter_map(|element| self.text_of(element)).collect()
    }

    /// Reads a text or a list of texts; empty if the key is not there.
    pub(super) fn one_or_more(&self, key: &'static str) -> Vec<Placed> {
        match self.get(key).map(Spanned::get_ref) {
            Some(DeValue::String(_)) => self.text(key).into_iter().collect(),
            Some(DeValue::Array(_)) => self.texts(key),
            Some(_) => {
                self.texts(key);
                Vec::new()
            }
            None => Vec::new(),
        }
    }

    /// Reads a list of texts that may be absent.
    pub(super) fn optional_texts(&self, key: &'static str) -> Option<Vec<Placed>> {
        self.has(key).then(|| self.texts(key))
    }

    /// Returns true if the table has the key.
    pub(super) fn has(&self, key: &'static str) -> bool {
        self.get(key).is_some()
    }

    /// Reads a list of texts without their spans.
    pub(super) fn words(&self, key: &'static str) -> Vec<String> {
        self.texts(key).into_iter().map(Spanned::into_inner).collect()
    }

    /// Reads a list of exactly two texts.
    pub(super) fn pair(&self, key: &'static str) -> Option<Spanned<[String; 2]>> {
        let value = self.get(key)?;
        let pair = value.get_ref().as_array().and_then(|elements| match elements.as_ref() {
            [first, second] => Some([first.get_ref().as_str()?, second.get_ref().as_str()?]),
            _ => None,
        });
        if pair.is_none() {
            self.wrong_type(value, "a list of two texts");
        }
        pair.map(|pair| Spanned::new(value.span(), pair.map(str::to_owned)))
    }

    /// Reads a text that is one of these words.
    pub(super) fn word<T: Copy>(&self, key: &'static str, words: &[(&'static str, T)]) -> Option<Spanned<T>> {
        let text = self.text(key)?;
        let found = words.iter().find(|(word, _)| word == text.get_ref());
        if found.is_none() {
            let known = words.iter().map(|(word, _)| *word).collect();
            let word = text.get_ref().clone();
            self.report(text.span(), ShapeErrorKind::UnknownWord { word, known });
        }
        found.map(|(_, value)| Spanned::new(text.span(), *value))
    }

    /// Reads any value.
    pub(super) fn value(&self, key: &'static str) -> Option<Spanned<RawValue>> {
        self.value_of(self.get(key)?)
    }

    /// Reads a table.
    pub(super) fn table(&self, key: &'static str) -> Option<Fields<'a, 'd>> {
        self.table_of(self.get(key)?)
    }

    fn table_of(&self, value: &'a Spanned<DeValue<'d>>) -> Option<Fields<'a, 'd>> {
        match value.get_ref() {
            DeValue::Table(table) => Some(Fields::new(table, value.span(), self.errors)),
            _ => {
                self.wrong_type(value, "a table");
                None
            }
        }
    }

    /// Reads a table that must be there.
    pub(super) fn required_table(&self, key: &'static str) -> Option<Fields<'a, 'd>> {
        self.required(key, self.table(key))
    }

    /// Reads a list of tables with `read`, which returns `None` after a mistake.
    pub(super) fn tables<T>(&self, key: &'static str, read: impl Fn(Fields<'a, 'd>) -> Option<T>) -> Vec<T> {
        let tables = self.elements(key, "a list of tables");
        if tables.len() > MOST_ENTRIES {
            let span = tables.get(MOST_ENTRIES).map_or(0..0, Spanned::span);
            self.report(span, ShapeErrorKind::TooMany { most: MOST_ENTRIES });
            return Vec::new();
        }
        let tables = tables.iter();
        tables.filter_map(|element| self.table_of(element)).filter_map(read).collect()
    }

    /// Reads a table with keys of the author's choice.
    pub(super) fn entries(&self, key: &'static str) -> Vec<(Placed, &'a Spanned<DeValue<'d>>)> {
        let Some(value) = self.get(key) else { return Vec::new() };
        match value.get_ref() {
            DeValue::Table(table) if table.len() > MOST_ENTRIES => {
                self.report(value.span(), ShapeErrorKind::TooMany { most: MOST_ENTRIES });
                Vec::new()
            }
            DeValue::Table(table) => table.iter().map(|(key, value)| (placed(key), value)).collect(),
            _ => {
                self.wrong_type(value, "a table");
                Vec::new()
            }
        }
    }

    /// Reads a table of texts with keys of the author's choice.
    pub(super) fn text_entries(&self, key: &'static str) -> Vec<(Placed, Placed)> {
        let entries = self.entries(key).into_iter();
        entries.filter_map(|(key, value)| Some((key, self.text_of(value)?))).collect()
    }

    /// Reads a table of any values with keys of the author's choice.
    pub(super) fn value_entries(&self, key: &'static str) -> Vec<(Placed, Spanned<RawValue>)> {
        let entries = self.entries(key).into_iter();
        entries.filter_map(|(key, value)| Some((key, self.value_of(value)?))).collect()
    }

    /// Reads a table of tables with keys of the author's choice.
    pub(super) fn table_entries<T>(
        &self,
        key: &'static str,
        read: impl Fn(Fields<'a, 'd>) -> T,
    ) -> Vec<(Placed, T)> {
        let entries = self.entries(key).into_iter();
        entries.filter_map(|(key, value)| Some((key, read(self.table_of(value)?)))).collect()
    }

    /// Reads a text, or a table whose key `is` holds an expression.
    pub(super) fn text_or_expression(&self, value: &'a Spanned<DeValue<'d>>) -> Option<(Placed, bool)> {
        match value.get_ref() {
            DeValue::String(_) => self.text_of(value).map(|text| (text, false)),
            DeValue::Table(table) => {
                let fields = Fields::new(table, value.span(), self.errors);
                let expression = fields.required_text("is");
                fields.finish();
                expression.map(|expression| (expression, true))
            }
            _ => {
                self.wrong_type(value, "a text or `{ is = \"…\" }`");
                None
            }
        }
    }

    /// Reports every key that was not read.
    pub(super) fn finish(self) {
        let known = self.known.take();
        for key in self.table.keys().filter(|key| !known.contains(&key.get_ref().as_ref())) {
            let unknown = ShapeErrorKind::UnknownKey { key: key.get_ref().to_string(), known: known.clone() };
            self.report(key.span(), unknown);
        }
    }
}

/// Returns a key with its span.
fn placed(key: &Spanned<Cow<'_, str>>) -> Placed {
    Spanned::new(key.span(), key.get_ref().clone().into_owned())
}

fn type_name(value: &DeValue<'_>) -> &'static str {
    match value {
        DeValue::String(_) => "a text",
        DeValue::Integer(_) => "an integer",
        DeValue::Float(_) => "a number with a fraction",
        DeValue::Boolean(_) => "true or false",
        DeValue::Datetime(_) => "a date",
        DeValue::Array(_) => "a list",
        DeValue::Table(_) => "a table",
    }
}
