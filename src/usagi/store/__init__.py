"""The database: plain SQL, psycopg, one module a subject. Every query names its studio."""
