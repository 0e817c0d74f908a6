"""Django's backend for MariaDB, which also counts what was committed."""
