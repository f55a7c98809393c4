"""The document, its history, its versions and what differs between them."""
