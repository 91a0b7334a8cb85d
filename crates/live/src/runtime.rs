//! The folder that sockets lie in: nobody else's, and nobody else's to write into. Where the system gives a person none
//! (`$XDG_RUNTIME_DIR`, XDG Base Directory Specification), it lies where every user can put things first.

use std::fs::{DirBuilder, File, Metadata, Permissions};
use std::os::unix::fs::{DirBuilderExt, MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::Path;

/// Looks at a folder without following a link; it must be this user's, or where that is `enough` the superuser's.
fn look(folder: &Path, enough: bool) -> Result<Metadata, String> {
    let about = folder.symlink_metadata().map_err(|error| format!("{}: {error}", folder.display()))?;
    let why = if about.is_symlink() {
        "is a link, which somebody may have laid there"
    } else if !about.is_dir() {
        "is no folder"
    } else if about.uid() != rustix::process::geteuid().as_raw() && !(enough && about.uid() == 0) {
        "belongs to another user"
    } else {
        return Ok(about);
    };
    Err(format!("{} {why}, so no socket in it is trusted", folder.display()))
}

/// Whether the folder of a socket is this user's alone, and the one that it lies in nobody else's to write into; `make` has
/// them made where they are missing. Why a socket there is not to be trusted.
pub fn own_folder(folder: &Path, make: bool) -> Result<(), String> {
    let above = folder.parent().unwrap_or(Path::new("/"));
    if make {
        // What is there already is looked at below, whatever it is.
        for (folder, all) in [(above, true), (folder, false)] {
            let _ = DirBuilder::new().recursive(all).mode(0o700).create(folder);
        }
    }
    let written = |about: &Metadata| about.mode() & 0o022 != 0;
    let around = look(above, true)?;
    // In a sticky folder (inode(7), S_ISVTX) nobody takes away what is another's.
    if written(&around) && around.mode() & 0o1000 == 0 {
        return Err(format!("others may write into {}, so no socket in it is trusted", above.display()));
    }
    let about = look(folder, false)?;
    if written(&about) {
        return Err(format!("others may write into {}, so no socket in it is trusted", folder.display()));
    }
    if about.mode() & 0o077 == 0 {
        return Ok(());
    }
    // It is ours, and read by others only: that is mended, on what was looked at.
    let flags = rustix::fs::OFlags::DIRECTORY | rustix::fs::OFlags::NOFOLLOW;
    let opened = File::options().read(true).custom_flags(flags.bits() as i32).open(folder);
    let mended = opened.and_then(|folder| folder.set_permissions(Permissions::from_mode(0o700)));
    mended.map_err(|error| format!("others may read {}: {error}", folder.display()))
}

#[cfg(test)]
mod tests {
    use std::os::unix::fs::symlink;

    use super::*;

    fn mode(path: &Path) -> u32 {
        path.symlink_metadata().expect("there").mode() & 0o7777
    }

    #[test]
    fn a_planted_folder_is_not_trusted_and_nothing_in_it_is_touched() {
        let home = std::env::temp_dir().join(format!("jovrik-planted-{}", std::process::id()));
        let at = |name: &str| home.join(name);
        let _ = std::fs::remove_dir_all(&home);
        // Somebody else's folder, and what stands in it.
        std::fs::create_dir_all(at("victim")).expect("made");
        std::fs::write(at("victim/0.sock"), "kept").expect("written");
        std::fs::set_permissions(at("victim"), Permissions::from_mode(0o755)).expect("set");
        let before = mode(&at("victim"));
        // A link in the place of the folder, and in that of the one above.
        std::fs::create_dir(at("run")).expect("made");
        std::fs::set_permissions(at("run"), Permissions::from_mode(0o700)).expect("set");
        symlink(at("victim"), at("run/jovrik")).expect("linked");
        std::fs::create_dir(at("victim/jovrik")).expect("made");
        symlink(at("victim"), at("way")).expect("linked");
        for folder in ["run/jovrik", "way/jovrik"] {
            let why = own_folder(&at(folder), true).expect_err("planted");
            assert!(why.contains("is a link"), "{why}");
            let socket = crate::socket::Socket::listen(&at(folder).join("0.sock"));
            assert!(socket.is_err(), "{folder}");
        }
        assert_eq!(std::fs::read(at("victim/0.sock")).expect("there"), b"kept");
        assert_eq!(mode(&at("victim")), before);
        // One that others may write into, itself or the one above.
        for (above, own) in [(0o777, 0o700), (0o700, 0o777), (0o720, 0o700)] {
            let _ = std::fs::remove_dir_all(at("open"));
            std::fs::create_dir_all(at("open/jovrik")).expect("made");
            std::fs::set_permissions(at("open/jovrik"), Permissions::from_mode(own)).expect("set");
            std::fs::set_permissions(at("open"), Permissions::from_mode(above)).expect("set");
            let why = own_folder(&at("open/jovrik"), true).expect_err("open");
            assert!(why.contains("others may write"), "{why}");
        }
        // A file of the name, and what is missing.
        std::fs::set_permissions(at("open"), Permissions::from_mode(0o700)).expect("set");
        std::fs::remove_dir(at("open/jovrik")).expect("empty");
        assert!(own_folder(&at("open/jovrik"), false).is_err());
        std::fs::write(at("open/jovrik"), "").expect("written");
        assert!(own_folder(&at("open/jovrik"), true).expect_err("a file").contains("is no folder"));
        // What is made is ours alone; what others could read no longer is.
        assert_eq!(own_folder(&at("new/deep/jovrik"), true), Ok(()));
        assert_eq!((mode(&at("new/deep")), mode(&at("new/deep/jovrik"))), (0o700, 0o700));
        std::fs::set_permissions(at("new/deep/jovrik"), Permissions::from_mode(0o755)).expect("set");
        assert_eq!((own_folder(&at("new/deep/jovrik"), false), mode(&at("new/deep/jovrik"))), (Ok(()), 0o700));
        // Another user's, where there is one to be had.
        if rustix::process::geteuid().is_root() {
            let other = Some(rustix::fs::Uid::from_raw(12345));
            rustix::fs::chown(at("new/deep/jovrik"), other, None).expect("given away");
            assert!(own_folder(&at("new/deep/jovrik"), true).expect_err("theirs").contains("another user"));
        }
        std::fs::remove_dir_all(&home).expect("taken away");
    }
}
