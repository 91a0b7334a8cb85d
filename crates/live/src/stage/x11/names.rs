//! Names of the properties and messages of ICCCM and EWMH.

x11rb::atom_manager! {
    /// The atoms that are used.
    pub Names: NamesCookie {
        MANAGER,
        UTF8_STRING,
        WM_CLASS,
        WM_DELETE_WINDOW,
        WM_NAME,
        WM_NORMAL_HINTS,
        WM_PROTOCOLS,
        WM_STATE,
        WM_TAKE_FOCUS,
        WM_TRANSIENT_FOR,
        _NET_ACTIVE_WINDOW,
        _NET_CLIENT_LIST,
        _NET_CLOSE_WINDOW,
        _NET_CURRENT_DESKTOP,
        _NET_DESKTOP_NAMES,
        _NET_NUMBER_OF_DESKTOPS,
        _NET_SUPPORTED,
        _NET_SUPPORTING_WM_CHECK,
        _NET_SYSTEM_TRAY_OPCODE,
        _NET_SYSTEM_TRAY_S0,
        _NET_WM_DESKTOP,
        _NET_WM_NAME,
        _NET_WM_WINDOW_TYPE,
        _NET_WM_WINDOW_TYPE_DIALOG,
        _NET_WM_WINDOW_TYPE_DESKTOP,
        _NET_WM_WINDOW_TYPE_DOCK,
        _NET_WM_WINDOW_TYPE_SPLASH,
        _NET_WM_WINDOW_TYPE_UTILITY,
        _NET_WORKAREA,
        _XEMBED,
        _XEMBED_INFO,
        _XROOTPMAP_ID,
    }
}
