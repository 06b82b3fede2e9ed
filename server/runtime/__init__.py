"""What runs around Django: the database cluster of the project's own, and the launcher."""
