//! What keys make together on this computer: the person's own compose file, or that of the locale.

use jovrik_core::keys::Compositions;
use kbvm::xkb::Context;
use kbvm::xkb::diagnostic::{Diagnostic, DiagnosticKind};

/// The locale whose keys are taken where that of the environment has none (`C` knows no accents).
const OTHERWISE: &str = "en_US.UTF-8";

/// What keys make together (libX11, Compose(5)); nothing where no file says so.
pub fn compositions() -> Option<Compositions> {
    let plain = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
    let locale = plain("LC_ALL").or_else(|| plain("LC_CTYPE")).or_else(|| plain("LANG"));
    let locale = locale.filter(|locale| !matches!(locale.as_str(), "C" | "POSIX" | "C.UTF-8"));
    let read = |locale: &str| {
        let context = Context::default();
        let mut builder = context.compose_table_builder();
        builder.locale(locale);
        let quiet: (Vec<Diagnostic>, fn(DiagnosticKind, bool) -> bool) = (Vec::new(), |_, _| false);
        builder.build(quiet)
    };
    let table = locale.and_then(|locale| read(&locale)).or_else(|| read(OTHERWISE));
    tracing::info!(found = table.is_some(), "compose file");
    table.map(Compositions::from)
}
