"""What every paper of the program is made of."""
