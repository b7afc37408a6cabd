"""The ground of every use case: transactions, the person who asks, requests."""
