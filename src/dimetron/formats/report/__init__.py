"""What is known of a project's fit as pages to print."""
