"""Making a circuit sheet without writing a file: from a typical circuit, by growing it, from what people have."""
