//! How far values reach.

/// How far a value reaches: what a rice of others may do without being asked, and what not.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Capability {
    /// It stays inside: how things look and behave, and files of the rice itself.
    #[serde(rename = "inside")]
    None,
    /// It can start programs, or read files outside the rice.
    #[serde(rename = "starts")]
    Execute,
    /// It sets a variable of the environment, by which programs can be made to run or load other code.
    Environment,
    /// It writes a file outside the rice.
    #[serde(rename = "writes")]
    WriteFile,
}

impl Capability {
    /// The word under which what was accepted is remembered on disk: it never changes, whatever the variant is called.
    pub fn stored_word(self) -> &'static str {
        match self {
            Capability::None => "Inside",
            Capability::Execute => "Starts",
            Capability::Environment => "Environment",
            Capability::WriteFile => "Writes",
        }
    }
}
