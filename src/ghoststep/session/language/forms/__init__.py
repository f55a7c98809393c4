"""Forms with phrases: variations and exceptions worked out, what an edit means for a form, forms that are found."""
