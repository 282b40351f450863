"""The first step: what measuring a picture found."""
