"""Several machines on one: a database cluster, an object store, web nodes and workers, that lose each part in turn."""
