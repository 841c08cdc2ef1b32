CREATE TABLE `placement_reviews` (
	`address` text PRIMARY KEY NOT NULL,
	`judgement` text NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL,
	`impressions_a_day` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `unsafe_words` (
	`id` integer PRIMARY KEY NOT NULL,
	`words` text NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
