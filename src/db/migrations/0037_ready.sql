CREATE TABLE `first_asks` (
	`path` text PRIMARY KEY NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `ready` (
	`name` text NOT NULL,
	`stamp` text NOT NULL,
	`build` text NOT NULL,
	`body` blob NOT NULL,
	`at` integer NOT NULL,
	PRIMARY KEY(`name`, `stamp`)
);
