"""The ledger: every asset, rule and promise of a build, as ``ledger.json`` holds it."""
