"""The PRISMA flow: figures, the sums that must come out, and two drawings."""
