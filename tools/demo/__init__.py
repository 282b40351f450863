"""Makes the demo pictures of the Hollowmere Puppet Theatre, a made-up place."""
