"""What a browser picks: media conditions, ``image-set``, ``srcset`` and ``sizes``."""
