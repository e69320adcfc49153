"""Weight sheets, orders and estimates of documents."""
