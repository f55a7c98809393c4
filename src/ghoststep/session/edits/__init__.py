"""Changes of a document: functions Document -> words, Document, and the one door that applies them."""
