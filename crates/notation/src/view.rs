//! The views: their names, what each works on, takes and gives.

/// The kind of value that a view applies to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum On {
    Text,
    Integer,
    Flag,
    List,
}

/// The type of an argument.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Takes {
    Text,
    Integer,
    /// A value of the list's element type.
    Element,
}

/// The type of the result.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Gives {
    Text,
    Integer,
    Flag,
    Texts,
    /// One element of the list.
    Element,
    /// A list of the same type.
    Same,
}

macro_rules! views {
    ($($on:ident { $($name:literal $view:ident ($($takes:ident),*) $gives:ident $cleans:literal)* })*) => {
        /// Everything that a view can be asked to do.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub(crate) enum View { $($($view,)*)* }

        /// Returns the signature of the view `name` on values of the kind `on`.
        pub(crate) fn find(on: On, name: &str) -> Option<&'static Signature> {
            match on {
                $(On::$on => match name {
                    $($name => Some(const {
                        &Signature {
                            view: View::$view,
                            takes: &[$(Takes::$takes),*],
                            gives: Gives::$gives,
                            cleans: $cleans,
                        }
                    }),)*
                    _ => None,
                },)*
            }
        }

        /// Returns the names of all views on values of the kind `on`.
        pub(crate) fn names(on: On) -> &'static [&'static str] {
            match on { $(On::$on => &[$($name),*],)* }
        }
    };
}

/// The name of a view and its types.
#[derive(Debug)]
pub(crate) struct Signature {
    pub(crate) view: View,
    pub(crate) takes: &'static [Takes],
    pub(crate) gives: Gives,
    /// Returns true if the result is not free text any more: it is quoted, or reduced to harmless
    /// characters.
    pub(crate) cleans: bool,
}

views! {
    Text {
        "title" Title () Text true
        "sentence" Sentence () Text true
        "snake" Snake () Text true
        "kebab" Kebab () Text true
        "camel" Camel () Text true
        "pascal" Pascal () Text true
        "constant" Constant () Text true
        "lower" Lower () Text false
        "upper" Upper () Text false
        "flat" Flat () Text true
        "dirs" Dirs () Text false
        "dotted" Dotted () Text false
        "json" TextJson () Text true
        "toml" TextToml () Text true
        "yaml" TextYaml () Text true
        "xml" Xml () Text true
        "shell" Shell () Text true
        "batch" Batch () Text true
        "python" Python () Text true
        "javascript" JavaScript () Text true
        "rust" Rust () Text true
        "go" Go () Text true
        "java" Java () Text true
        "c" C () Text true
        "make" Make () Text true
        "env" Env () Text true
        "ini" Ini () Text true
        "container" Container () Text true
        "markdown" Markdown () Text true
        "trim" Trim () Text false
        "indent" Indent (Integer) Text false
        "wrap" Wrap (Integer) Text false
        "comment" Comment (Text) Text false
        "replace" Replace (Text, Text) Text false
        "pad" TextPad (Integer) Text false
        "len" TextLen () Integer true
        "empty" TextEmpty () Flag true
        "has" TextHas (Text) Flag true
        "starts" Starts (Text) Flag true
        "ends" Ends (Text) Flag true
        "lines" Lines () Texts false
        "words" Words () Texts false
        "split" Split (Text) Texts false
        "date" Date (Text) Text true
    }
    List {
        "len" ListLen () Integer true
        "empty" ListEmpty () Flag true
        "has" ListHas (Element) Flag true
        "first" First () Element false
        "last" Last () Element false
        "at" At (Integer) Element false
        "take" Take (Integer) Same false
        "drop" Drop (Integer) Same false
        "sorted" Sorted () Same false
        "unique" Unique () Same false
        "join" Join (Text) Text false
    }
    Integer {
        "text" IntegerText () Text true
        "json" IntegerJson () Text true
        "toml" IntegerToml () Text true
        "yaml" IntegerYaml () Text true
        "pad" IntegerPad (Integer) Text true
    }
    Flag {
        "text" FlagText () Text true
        "json" FlagJson () Text true
        "toml" FlagToml () Text true
        "yaml" FlagYaml () Text true
    }
}

/// Returns true if any kind of value has a view of this name.
pub(crate) fn is_view(name: &str) -> bool {
    [On::Text, On::List, On::Integer, On::Flag].into_iter().any(|on| find(on, name).is_some())
}
