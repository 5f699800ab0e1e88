//! Views on the words and letters of a text.

use heck::{ToKebabCase, ToLowerCamelCase, ToPascalCase, ToShoutySnakeCase, ToSnakeCase, ToTitleCase};

use crate::view::View;

/// Returns the text in another case; words are split as `heck` does.
pub(crate) fn cased(view: View, text: &str) -> String {
    match view {
        View::Title => text.to_title_case(),
        View::Sentence => sentence(text),
        View::Snake => text.to_snake_case(),
        View::Kebab => text.to_kebab_case(),
        View::Camel => text.to_lower_camel_case(),
        View::Pascal => text.to_pascal_case(),
        View::Constant => text.to_shouty_snake_case(),
        View::Lower => text.to_lowercase(),
        View::Upper => text.to_uppercase(),
        _ => text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect(),
    }
}

/// Words with spaces between, the first one with a capital.
fn sentence(text: &str) -> String {
    let spaced = text.to_snake_case().replace('_', " ");
    let mut letters = spaced.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}
