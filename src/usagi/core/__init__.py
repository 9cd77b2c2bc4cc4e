"""The rules of the job: values in, values out. No files, clock, randomness, database or web in here."""
