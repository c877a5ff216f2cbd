"""The commands, one module each: what it takes (``add_arguments``), examples, and ``run``.

A module is imported when its command is called, so the list of all of them costs nothing.
"""

COMMANDS = {
    "begin": "draft a brief that gives back the page as it looks, only lighter",
    "build": "make the pictures and the rules that a brief asks for",
    "plan": "show what would be made, touching no pixels and writing nothing",
    "adjust": "point at what matters on a local page, and see every screen follow",
    "sheet": "write the proof: one page that shows every screen and promise, for clients",
    "insert": "put the rules into a copy of a page, look at both, tell what differs",
    "better": "propose what would be better than a page as it is, in pictures and figures",
    "crop": "cut one picture to an exact size round its subject",
    "compress": "make single pictures and SVG drawings lighter, each by what is seen of it",
    "poster": "choose the still that stands for a clip, and draw a sheet of the best ones",
    "transcode": "make a clip light: the stretch that loops, in formats that play everywhere",
    "subject": "suggest where a picture's subject is, as a line for the brief",
    "trials": "try treatments and scrims on a picture, side by side under its copy",
    "inspect": "tell what a page does wrong as it is, where, and what each fault costs",
    "measure": "measure on a page where its text lies above each backdrop, in every window",
    "hits": "tell whether the brief's selectors hit a page, and whose rules would win there",
    "rehearse": "play a page's load through: which screen fetches what, when, over which line",
    "served": "tell which files a host serves as they were built, and which it compressed again",
    "pretend-host": "serve a folder on this machine like a host that compresses pictures again",
    "store": "tell how much is kept for the next run, or clear it",
    "demo": "set up the example of Marrowfen Mill and build it",
    "keys": "tell what can be written in a brief: every key, its meaning, its default",
    "schema": "print the brief's JSON Schema, for editors that check while one types",
}
"""What each is for, in the order in which they are told."""
