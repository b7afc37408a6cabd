"""The compression rig that bends pallets: a platen, bars, and six displacement sensors."""
