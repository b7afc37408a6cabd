"""Attachments: files that go with a job, a client, an instrument or a product."""
