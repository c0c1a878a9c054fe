"""Django's PostgreSQL backend, on connections that no request waits for longer than its patience."""
