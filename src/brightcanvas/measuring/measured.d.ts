// Types of what is asked of pages: checked, never sent.

interface Edges { left: number; top: number; right: number; bottom: number }
