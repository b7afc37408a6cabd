"""The record: who may do what, what came in, and that nothing was changed by hand."""
