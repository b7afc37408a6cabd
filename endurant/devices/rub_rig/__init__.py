"""A rig that rubs and counts: scuff, colour rub, linear, wear, scratch."""
