"""What people type or print, to values and back."""
