//! `rice.toml`: what a rice is called and needs.

use jovrik_schema::{Integer, settings};

/// The newest format that this program reads.
pub const FORMAT: i64 = 1;

settings! {
    /// who a rice is
    pub struct RiceInfo {
        /// its name: small letters, digits and -
        name: String = "",
        /// its version
        version: String = "0.1.0",
        /// one line about it
        summary: String = "",
        /// its licence, as an SPDX expression
        license: String = "",
        /// the number of the format it is written in
        format: Integer<1, 1000000> = 1,
    }
}

settings! {
    /// what a rice needs on a machine
    pub struct Requirements {
        /// fonts, by family
        fonts: Vec<String> = [],
        /// programs, by name
        programs: Vec<String> = [],
    }
}

settings! {
    /// warnings that a rice accepts
    pub struct CheckSettings {
        /// their codes
        allow: Vec<String> = [],
    }
}

settings! {
    /// the manifest
    pub struct Manifest {
        /// who it is
        rice: RiceInfo,
        /// what it needs
        needs: Requirements,
        /// which warnings it accepts
        check: CheckSettings,
    }
}
