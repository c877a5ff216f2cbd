"""What ``import brightcanvas`` offers: the commands' work as functions.

Nothing here prints, reads arguments, or ends the program. What can't be done raises a
``BrightCanvasError``, whose text says what is wrong, where, and what to do; a word that means
nothing raises a ``ValueError``. What can't be read is told in the results. What is heavy is
imported when it is first called.
"""
