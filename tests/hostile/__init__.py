"""Files made to hurt: bounded by what they may unfold to, not by how long that takes."""
