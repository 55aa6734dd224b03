"""The web application: one router a resource, and what keeps strangers out."""
