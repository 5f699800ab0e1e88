//! Conditions in words.

use tinmold_notation::{Naming, in_words};

/// A mold with questions `web` and `extras`, a flag `night`, and derived values.
struct Mold;

impl Naming for Mold {
    fn name(&self, name: &str) -> Option<String> {
        ["web", "extras", "night", "port", "title"].contains(&name).then(|| name.to_uppercase())
    }

    fn value(&self, _: &str, value: &str) -> Option<String> {
        (value == "std").then(|| "Standard library".to_owned())
    }

    fn definition(&self, name: &str) -> Option<String> {
        let many = |name: &str| vec![name; 60].join(" and ");
        Some(match name {
            "stored" => {
                "match web case 'std' then false case 'flask' then true case 'fastapi' then true".to_owned()
            }
            "busy" => "stored and night".to_owned(),
            "alias" => "web".to_owned(),
            "itself" => "not itself".to_owned(),
            "deep0" => "night".to_owned(),
            name => many(&format!("deep{}", name.strip_prefix("deep")?.parse::<u32>().ok()? - 1)),
        })
    }
}

#[test]
fn conditions_become_sentences() {
    for (source, words) in [
        ("web == 'std'", "WEB is Standard library"),
        ("not (web == 'std')", "WEB is not Standard library"),
        ("'ci' in extras and not night", "EXTRAS has ci, and NIGHT is no"),
        ("'ci' not in extras", "EXTRAS does not have ci"),
        ("stored", "WEB is not Standard library"),
        ("not stored", "WEB is Standard library"),
        ("not busy", "WEB is Standard library, or NIGHT is no"),
        (
            "(night or stored) and port > 80",
            "(NIGHT is yes, or WEB is not Standard library), and PORT is more than 80",
        ),
        ("not (port >= 80)", "PORT is less than 80"),
        ("alias == 'flask'", "WEB is flask"),
        ("night and night", "NIGHT is yes"),
        ("not title.empty", "TITLE is given"),
        ("extras.len > 1", "the length of EXTRAS is more than 1"),
        ("match web case 'std', 'flask' then true else false", "WEB is Standard library or flask"),
        ("true", "always"),
        // What has no words stays as it is.
        ("title.snake  == 'x'", "`title.snake == 'x'`"),
        ("unknown == 'x'", "`unknown == 'x'`"),
        ("itself", "`itself`"),
        ("web ==", "`web ==`"),
        // Sixty to the tenth power.
        ("deep10", "`deep10`"),
    ] {
        assert_eq!(in_words(source, &Mold), words, "{source}");
    }
    let long = format!("night{}", " and night".repeat(5000));
    assert!(in_words(&long, &Mold).starts_with("`night"));
}
