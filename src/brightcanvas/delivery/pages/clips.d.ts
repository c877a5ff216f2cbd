// Types of the script that starts and stops what moves: checked, never published.

/** A clip or a hosted frame. */
interface Moving { update(): void; press(): void }
interface Known { parts: WeakMap<Element, Moving>; find: (() => void) | null }
interface Navigator { connection?: { saveData?: boolean } }
