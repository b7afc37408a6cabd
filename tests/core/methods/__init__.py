"""Parts of single methods, on arrays small enough to work out by hand."""
