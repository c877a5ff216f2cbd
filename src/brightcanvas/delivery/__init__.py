"""The rules that load the assets: style sheet, hints, markup, and a page to try them on."""
