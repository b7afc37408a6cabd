"""A jar under vacuum, with packs under water."""
