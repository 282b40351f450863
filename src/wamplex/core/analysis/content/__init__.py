"""What the picture shows: content type, subject, spots, borders, clipped tones."""
