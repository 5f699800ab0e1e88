//! Completions after a dot, for authors of molds.

use crate::scope::Scope;
use crate::types::Type;
use crate::view::{self, Gives, On, Takes};
use serde::Serialize;

/// A field or view that can follow a value.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Following {
    /// Its name, with its arguments where it takes some: `replace(text, text)`.
    pub name: String,
    /// The type of the result, in words: "a text".
    pub gives: String,
}

/// Returns what can follow a value of the type `of`, sorted by name.
///
/// ```
/// use tinmold_notation::{Scope, Type, following};
/// let all = following(&Scope::new(), Type::Flag);
/// assert_eq!(all[0].name, "json");
/// assert_eq!(all[0].gives, "a text");
/// ```
#[must_use]
pub fn following(scope: &Scope, of: Type) -> Vec<Following> {
    let on = match of {
        Type::Text => On::Text,
        Type::Integer => On::Integer,
        Type::Flag => On::Flag,
        Type::List(_) => On::List,
        Type::Unknown => return Vec::new(),
        Type::Option { of, .. } => {
            let fixed = [("value", Type::Text), ("label", Type::Text)];
            let fields = fixed.into_iter().chain(scope.choices(of).fields());
            let mut all: Vec<_> = fields
                .map(|(name, of)| Following { name: name.to_owned(), gives: scope.describe(of) })
                .collect();
            all.sort_by(|a, b| a.name.cmp(&b.name));
            return all;
        }
    };
    let element = match of {
        Type::List(element) => element.single(),
        _ => Type::Unknown,
    };
    let described = |of| scope.describe(of).trim_start_matches("a ").trim_start_matches("an ").to_owned();
    let mut all: Vec<Following> = view::names(on)
        .iter()
        // Only `today` has it, and that is no type.
        .filter(|name| **name != "date")
        .filter_map(|name| view::find(on, name).map(|signature| (name, signature)))
        .map(|(name, signature)| {
            let takes: Vec<String> = signature
                .takes
                .iter()
                .map(|takes| match takes {
                    Takes::Text => "text".to_owned(),
                    Takes::Integer => "integer".to_owned(),
                    Takes::Element => described(element),
                })
                .collect();
            let arguments = if takes.is_empty() { String::new() } else { format!("({})", takes.join(", ")) };
            let gives = match signature.gives {
                Gives::Text => Type::Text,
                Gives::Integer => Type::Integer,
                Gives::Flag => Type::Flag,
                Gives::Texts => Type::List(crate::types::Element::Text),
                Gives::Element => element,
                Gives::Same => of,
            };
            Following { name: format!("{name}{arguments}"), gives: scope.describe(gives) }
        })
        .collect();
    all.sort_by(|a, b| a.name.cmp(&b.name));
    all
}
