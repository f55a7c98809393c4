"""Changes of a document: functions Document -> words, Document, and the commit that applies them."""
