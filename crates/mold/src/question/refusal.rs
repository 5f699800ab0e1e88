//! Why an answer is refused.

/// Why a value is refused, and what would do instead.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Refusal {
    /// The mistake, as a clause without a full stop.
    pub reason: String,
    /// What would be accepted; may be empty.
    pub advice: String,
}

impl Refusal {
    /// Makes a refusal.
    #[must_use]
    pub fn new(reason: impl Into<String>, advice: impl Into<String>) -> Self {
        Self { reason: reason.into(), advice: advice.into() }
    }

    /// "x would do", "x or y would do"; empty for no candidates.
    #[must_use]
    pub fn offering(reason: impl Into<String>, candidates: &[String]) -> Self {
        let quoted: Vec<_> = candidates.iter().map(|candidate| format!("`{candidate}`")).collect();
        let advice =
            if quoted.is_empty() { String::new() } else { format!("{} would do", quoted.join(" or ")) };
        Self::new(reason, advice)
    }
}

impl std::fmt::Display for Refusal {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.reason)?;
        if !self.advice.is_empty() {
            write!(f, "; {}", self.advice)?;
        }
        Ok(())
    }
}
