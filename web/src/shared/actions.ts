// The actions that can be asked of nodes, in the order in which marks and menus show them.

/** The actions of a marked row, in the order of its marks. */
export const ACTIONS = ["see", "create", "edit", "publish", "retire", "remove", "move", "history", "restore"];

/** Those that are asked of a page that is there. */
export const ON_A_PAGE = ACTIONS.filter((action) => action !== "create");
