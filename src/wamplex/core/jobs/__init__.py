"""The durable queue of files to be made: a journal on the disk, what runs its jobs, what recovers them."""
