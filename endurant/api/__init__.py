"""HTTP and sockets: thin, with every error as a problem document."""
