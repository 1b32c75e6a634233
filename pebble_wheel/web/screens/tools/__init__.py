"""What yarn is made with: wheels, motor spinners, spindles and bobbins."""
