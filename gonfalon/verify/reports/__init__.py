"""Reports: who can do what, for a client or an auditor; made by the worker, kept a week for whoever asked for one."""
