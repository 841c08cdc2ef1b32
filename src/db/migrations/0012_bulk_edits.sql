CREATE TABLE `bulk_edits` (
	`id` text PRIMARY KEY NOT NULL,
	`at` integer NOT NULL,
	`items` integer NOT NULL,
	`changes` integer NOT NULL,
	`words` text NOT NULL,
	`diff` blob NOT NULL,
	`undone_at` integer
);
