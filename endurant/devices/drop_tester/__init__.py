"""A device that lets packs fall on a face, an edge or a corner."""
