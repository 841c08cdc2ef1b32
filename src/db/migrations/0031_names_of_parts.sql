-- Names are made of the parts that ad lines and derived fields are made of: what they tell are fields.
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"level","level":1}', '{"kind":"field","field":"level-1"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"level","level":2}', '{"kind":"field","field":"level-2"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"level","level":3}', '{"kind":"field","field":"level-3"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"level","level":4}', '{"kind":"field","field":"level-4"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"level","level":5}', '{"kind":"field","field":"level-5"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"level","level":6}', '{"kind":"field","field":"level-6"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"level","level":7}', '{"kind":"field","field":"level-7"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"product"}', '{"kind":"field","field":"product"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"purpose"}', '{"kind":"field","field":"purpose"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"campaign-kind"}', '{"kind":"field","field":"campaign-kind"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"match"}', '{"kind":"field","field":"match"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"first-day"}', '{"kind":"field","field":"first-day"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"planogram"}', '{"kind":"field","field":"planogram"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"campaign"}', '{"kind":"field","field":"campaign"}');
--> statement-breakpoint
UPDATE `planograms` SET `definition` = replace(`definition`, '{"kind":"number"}', '{"kind":"field","field":"number"}');
