"""A hydraulic bursting rig: pump, diaphragm, ring, height sensor."""
