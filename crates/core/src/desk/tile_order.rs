//! How the tiles of a workspace stand, so that they can be put back.

use std::collections::HashMap;

use super::layout::LayoutState;
use super::window::WindowId;
use super::window_manager::WindowManager;

/// The windows of a workspace in their order, and what its layouts remember of them.
#[derive(Debug, Clone)]
pub struct TileOrder {
    workspace: usize,
    windows: Vec<WindowId>,
    memory: HashMap<String, LayoutState>,
}

impl WindowManager {
    /// How the tiles stand where a window is; nothing where it is none of them.
    pub fn order_round(&self, window: WindowId) -> Option<TileOrder> {
        let workspace = self.windows.get(&window)?.workspace;
        let (windows, memory) = (self.workspaces[workspace].windows.clone(), self.workspaces[workspace].memory.clone());
        windows.contains(&window).then_some(TileOrder { workspace, windows, memory })
    }

    /// Puts tiles back as they stood, unless others are there by now.
    pub(super) fn stand_again(&mut self, order: TileOrder) {
        let Some(workspace) = self.workspaces.get_mut(order.workspace) else { return };
        let sorted = |windows: &[WindowId]| {
            let mut windows = windows.to_vec();
            windows.sort_unstable();
            windows
        };
        if sorted(&workspace.windows) == sorted(&order.windows) {
            (workspace.windows, workspace.memory) = (order.windows, order.memory);
        }
    }
}
