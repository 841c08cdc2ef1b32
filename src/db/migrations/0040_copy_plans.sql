CREATE TABLE `copy_approvals` (
	`plan` text NOT NULL,
	`cause` text NOT NULL,
	`text` text NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL,
	PRIMARY KEY(`plan`, `cause`, `text`)
);
--> statement-breakpoint
CREATE TABLE `copy_plans` (
	`key` text PRIMARY KEY NOT NULL,
	`definition` text NOT NULL,
	`saved_at` integer NOT NULL
);
