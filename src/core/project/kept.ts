/** How much of the past is kept; docs/architecture.md tells the rule. */

/** Changes in the log: undo reaches back as far. */
export const CHANGES_KEPT = 2000;
/** Versions of each list, beside the one it stands at and those that undo or redo can lead to. */
export const VERSIONS_KEPT = 20;
