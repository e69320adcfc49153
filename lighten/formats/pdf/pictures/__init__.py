"""Pictures of a PDF: taken out for the engine, weighed, and put back."""
