import django.contrib.postgres.fields
import django.contrib.postgres.indexes
import django.contrib.postgres.search
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [
        ("review", "0001_initial"),
        ("review", "0002_sets_and_body_measures"),
        ("review", "0003_why_absent"),
        ("review", "0004_nothing_in_silence"),
        ("review", "0005_when_sets_ran"),
        ("review", "0006_strikes_of_a_run"),
        ("review", "0007_runs_of_kept_strikes"),
        ("review", "0008_no_strike_without_a_run"),
        ("review", "0009_remarks_by_family"),
        ("review", "0010_strikes_no_bag_felt"),
        ("review", "0011_notes_are_searched"),
        ("review", "0012_names_that_are_guessed"),
    ]

    initial = True

    dependencies = [
        ("capture", "0001_squashed_0011_passing_parts"),
        ("evening", "0001_squashed_0006_keys_within_an_evening"),
        ("gym", "0001_squashed_0002_demo_and_other"),
        ("playbook", "0001_squashed_0006_written"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Strike",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("peak_force_n", models.FloatField(null=True)),
                ("peak_force_n_sd", models.FloatField(null=True)),
                ("impulse_n_s", models.FloatField(null=True)),
                ("impulse_n_s_sd", models.FloatField(null=True)),
                ("contact_ms", models.FloatField(null=True)),
                ("contact_ms_sd", models.FloatField(null=True)),
                ("rise_ms", models.FloatField(null=True)),
                ("rise_ms_sd", models.FloatField(null=True)),
                ("push_index", models.FloatField(null=True)),
                ("push_index_sd", models.FloatField(null=True)),
                ("hit_below_top_m", models.FloatField(null=True)),
                ("hit_below_top_m_sd", models.FloatField(null=True)),
                ("off_centre_m", models.FloatField(null=True)),
                ("off_centre_m_sd", models.FloatField(null=True)),
                ("direction_deg", models.FloatField(null=True)),
                ("direction_deg_sd", models.FloatField(null=True)),
                ("bag_energy_j", models.FloatField(null=True)),
                ("bag_energy_j_sd", models.FloatField(null=True)),
                ("gap_ms", models.FloatField(null=True)),
                ("gap_ms_sd", models.FloatField(null=True)),
                ("peak_speed_m_s", models.FloatField(null=True)),
                ("peak_speed_m_s_sd", models.FloatField(null=True)),
                ("contact_speed_m_s", models.FloatField(null=True)),
                ("contact_speed_m_s_sd", models.FloatField(null=True)),
                ("speed_held_pct", models.FloatField(null=True)),
                ("speed_held_pct_sd", models.FloatField(null=True)),
                ("hand_before_ms", models.FloatField(null=True)),
                ("hand_before_ms_sd", models.FloatField(null=True)),
                ("flight_ms", models.FloatField(null=True)),
                ("flight_ms_sd", models.FloatField(null=True)),
                ("path_ratio", models.FloatField(null=True)),
                ("path_ratio_sd", models.FloatField(null=True)),
                ("pullback_mm", models.FloatField(null=True)),
                ("pullback_mm_sd", models.FloatField(null=True)),
                ("drop_mm", models.FloatField(null=True)),
                ("drop_mm_sd", models.FloatField(null=True)),
                ("tell_ms", models.FloatField(null=True)),
                ("tell_ms_sd", models.FloatField(null=True)),
                ("return_ms", models.FloatField(null=True)),
                ("return_ms_sd", models.FloatField(null=True)),
                ("return_drop_mm", models.FloatField(null=True)),
                ("return_drop_mm_sd", models.FloatField(null=True)),
                ("turnover_deg", models.FloatField(null=True)),
                ("turnover_deg_sd", models.FloatField(null=True)),
                ("turnover_late_pct", models.FloatField(null=True)),
                ("turnover_late_pct_sd", models.FloatField(null=True)),
                ("effective_mass_kg", models.FloatField(null=True)),
                ("effective_mass_kg_sd", models.FloatField(null=True)),
                ("effective_mass_pct", models.FloatField(null=True)),
                ("effective_mass_pct_sd", models.FloatField(null=True)),
                ("pelvis_peak_deg_s", models.FloatField(null=True)),
                ("pelvis_peak_deg_s_sd", models.FloatField(null=True)),
                ("torso_peak_deg_s", models.FloatField(null=True)),
                ("torso_peak_deg_s_sd", models.FloatField(null=True)),
                ("pelvis_before_ms", models.FloatField(null=True)),
                ("pelvis_before_ms_sd", models.FloatField(null=True)),
                ("torso_before_ms", models.FloatField(null=True)),
                ("torso_before_ms_sd", models.FloatField(null=True)),
                ("separation_deg", models.FloatField(null=True)),
                ("separation_deg_sd", models.FloatField(null=True)),
                ("turn_deg", models.FloatField(null=True)),
                ("turn_deg_sd", models.FloatField(null=True)),
                ("turn_done_pct", models.FloatField(null=True)),
                ("turn_done_pct_sd", models.FloatField(null=True)),
                ("lean_deg", models.FloatField(null=True)),
                ("lean_deg_sd", models.FloatField(null=True)),
                ("hip_tilt_deg", models.FloatField(null=True)),
                ("hip_tilt_deg_sd", models.FloatField(null=True)),
                ("shoulder_tilt_deg", models.FloatField(null=True)),
                ("shoulder_tilt_deg_sd", models.FloatField(null=True)),
                ("pelvis_rise_mm", models.FloatField(null=True)),
                ("pelvis_rise_mm_sd", models.FloatField(null=True)),
                ("lead_load_start_pct", models.FloatField(null=True)),
                ("lead_load_start_pct_sd", models.FloatField(null=True)),
                ("lead_load_contact_pct", models.FloatField(null=True)),
                ("lead_load_contact_pct_sd", models.FloatField(null=True)),
                ("load_shift_pct", models.FloatField(null=True)),
                ("load_shift_pct_sd", models.FloatField(null=True)),
                ("lead_heel_pct", models.FloatField(null=True)),
                ("lead_heel_pct_sd", models.FloatField(null=True)),
                ("step_before_ms", models.FloatField(null=True)),
                ("step_before_ms_sd", models.FloatField(null=True)),
                ("push_bw_s", models.FloatField(null=True)),
                ("push_bw_s_sd", models.FloatField(null=True)),
                ("settle_ms", models.FloatField(null=True)),
                ("settle_ms_sd", models.FloatField(null=True)),
                ("pivot_deg", models.FloatField(null=True)),
                ("pivot_deg_sd", models.FloatField(null=True)),
                ("reaction_ms", models.FloatField(null=True)),
                ("reaction_ms_sd", models.FloatField(null=True)),
                ("response_ms", models.FloatField(null=True)),
                ("response_ms_sd", models.FloatField(null=True)),
                ("impulse_estimated_n_s", models.FloatField(null=True)),
                ("impulse_estimated_n_s_sd", models.FloatField(null=True)),
                ("effective_mass_estimated_kg", models.FloatField(null=True)),
                ("effective_mass_estimated_kg_sd", models.FloatField(null=True)),
                ("number", models.IntegerField(help_text="1 is the recording's first")),
                ("contact_s", models.FloatField()),
                (
                    "limb",
                    models.CharField(
                        choices=[
                            ("left_hand", "Left Hand"),
                            ("right_hand", "Right Hand"),
                            ("left_elbow", "Left Elbow"),
                            ("right_elbow", "Right Elbow"),
                            ("left_knee", "Left Knee"),
                            ("right_knee", "Right Knee"),
                            ("left_foot", "Left Foot"),
                            ("right_foot", "Right Foot"),
                            ("unknown", "Unknown"),
                        ],
                        default="unknown",
                        max_length=12,
                    ),
                ),
                (
                    "kind",
                    models.CharField(db_default="bag", default="bag", help_text="what it landed on", max_length=4),
                ),
                ("level", models.CharField(blank=True, max_length=6)),
                (
                    "relabelled_limb",
                    models.CharField(
                        blank=True,
                        choices=[
                            ("left_hand", "Left Hand"),
                            ("right_hand", "Right Hand"),
                            ("left_elbow", "Left Elbow"),
                            ("right_elbow", "Right Elbow"),
                            ("left_knee", "Left Knee"),
                            ("right_knee", "Right Knee"),
                            ("left_foot", "Left Foot"),
                            ("right_foot", "Right Foot"),
                            ("unknown", "Unknown"),
                        ],
                        max_length=12,
                    ),
                ),
                (
                    "flags",
                    django.contrib.postgres.fields.ArrayField(
                        base_field=models.CharField(max_length=40), default=list, size=None
                    ),
                ),
                ("excluded_reason", models.CharField(blank=True, max_length=120)),
                ("excluded_at", models.DateTimeField(null=True)),
                ("chain_order", models.CharField(blank=True, max_length=20)),
                ("launch_ms", models.FloatField(help_text="from contact, negative", null=True)),
                (
                    "absent",
                    models.JSONField(default=dict, help_text="measure of this strike alone that is not there -> why"),
                ),
                ("note", models.TextField(blank=True)),
                (
                    "version",
                    models.IntegerField(
                        default=1, help_text="of what coaches say of it: label, note, thrown out or not"
                    ),
                ),
                (
                    "analysis",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="strikes", to="capture.analysisrun"
                    ),
                ),
                (
                    "excluded_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "recording",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="strikes", to="capture.recording"
                    ),
                ),
            ],
            options={
                "ordering": ["recording", "number"],
            },
        ),
        migrations.CreateModel(
            name="StrikeLanes",
            fields=[
                (
                    "strike",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        primary_key=True,
                        related_name="lanes",
                        serialize=False,
                        to="review.strike",
                    ),
                ),
                ("parquet", models.BinaryField()),
            ],
        ),
        migrations.CreateModel(
            name="NamesLearnt",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("made_at", models.DateTimeField(auto_now=True)),
                ("known", models.CharField(help_text="what it was learnt from: see review.names", max_length=80)),
                (
                    "told",
                    models.JSONField(default=dict, help_text="part of the body -> names, table, right, said, students"),
                ),
                (
                    "gym",
                    models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="gym.gym"),
                ),
            ],
        ),
        migrations.CreateModel(
            name="StrikeSet",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "began_s",
                    models.FloatField(help_text="on the reference clock, where it was planned or called", null=True),
                ),
                ("ended_s", models.FloatField(null=True)),
                ("code", models.CharField(max_length=60)),
                ("limb", models.CharField(blank=True, max_length=12)),
                ("level", models.CharField(blank=True, max_length=6)),
                ("levels", models.JSONField(default=dict, help_text="factor to level")),
                ("gear", models.CharField(blank=True, max_length=80)),
                ("by_coach", models.BooleanField(default=False)),
                (
                    "planned",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="thrown",
                        to="evening.plannedset",
                    ),
                ),
                (
                    "recording",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="sets", to="capture.recording"
                    ),
                ),
                (
                    "school",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="playbook.school"
                    ),
                ),
            ],
            options={
                "ordering": ["id"],
            },
        ),
        migrations.AddField(
            model_name="strike",
            name="set",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="strikes", to="review.strikeset"
            ),
        ),
        migrations.CreateModel(
            name="Guess",
            fields=[
                (
                    "strike",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        primary_key=True,
                        related_name="guess",
                        serialize=False,
                        to="review.strike",
                    ),
                ),
                ("code", models.CharField(max_length=60)),
                ("sure", models.FloatField()),
            ],
            options={
                "constraints": [
                    models.CheckConstraint(condition=models.Q(("code", ""), _negated=True), name="guess_has_a_code"),
                    models.CheckConstraint(
                        condition=models.Q(("sure__gte", 0), ("sure__lte", 1)), name="guess_is_sure_by_a_share"
                    ),
                ],
            },
        ),
        migrations.CreateModel(
            name="Remark",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("what", models.CharField(help_text="one of core.vocabulary.REMARKS", max_length=20)),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "strike",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="remarks", to="review.strike"
                    ),
                ),
            ],
            options={
                "ordering": ["id"],
                "constraints": [models.UniqueConstraint(fields=("strike", "what"), name="remark_once_a_strike")],
            },
        ),
        migrations.AddConstraint(
            model_name="strikeset",
            constraint=models.CheckConstraint(condition=models.Q(("code", ""), _negated=True), name="set_has_a_code"),
        ),
        migrations.AddConstraint(
            model_name="strikeset",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("began_s__isnull", True),
                        models.Q(("began_s__gt", float("-inf")), ("began_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("ended_s__isnull", True),
                        models.Q(("ended_s__gt", float("-inf")), ("ended_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                ),
                name="review_strikeset_finite",
            ),
        ),
        migrations.AddIndex(
            model_name="strike",
            index=models.Index(
                condition=models.Q(("note", ""), _negated=True), fields=["recording"], name="strike_notes"
            ),
        ),
        migrations.AddIndex(
            model_name="strike",
            index=django.contrib.postgres.indexes.GinIndex(
                django.contrib.postgres.search.SearchVector("note", config="simple"),
                condition=models.Q(("note", ""), _negated=True),
                name="strike_words",
            ),
        ),
        migrations.AddConstraint(
            model_name="strike",
            constraint=models.UniqueConstraint(fields=("recording", "number"), name="strike_number_once"),
        ),
        migrations.AddConstraint(
            model_name="strike",
            constraint=models.CheckConstraint(
                condition=models.Q(("impulse_n_s__isnull", True), ("impulse_n_s__gt", 0), _connector="OR"),
                name="impulse_is_positive",
            ),
        ),
        migrations.AddConstraint(
            model_name="strike",
            constraint=models.CheckConstraint(
                condition=models.Q(("kind__in", ("bag", "met", "air"))), name="strike_landed_on_something_known"
            ),
        ),
        migrations.AddConstraint(
            model_name="strike",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    ("kind", "bag"),
                    models.Q(("effective_mass_kg__isnull", True), ("impulse_n_s__isnull", True)),
                    _connector="OR",
                ),
                name="force_is_measured_by_a_bag",
            ),
        ),
        migrations.AddConstraint(
            model_name="strike",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(("kind", "bag"), _negated=True),
                    models.Q(("effective_mass_estimated_kg__isnull", True), ("impulse_estimated_n_s__isnull", True)),
                    _connector="OR",
                ),
                name="nothing_estimated_on_a_bag",
            ),
        ),
        migrations.AddConstraint(
            model_name="strike",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(("excluded_at__isnull", True), ("excluded_reason", "")),
                    models.Q(models.Q(("excluded_reason", ""), _negated=True), ("excluded_at__isnull", False)),
                    _connector="OR",
                ),
                name="excluded_with_a_reason",
            ),
        ),
        migrations.AddConstraint(
            model_name="strike",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(
                        ("contact_s__isnull", True),
                        models.Q(("contact_s__gt", float("-inf")), ("contact_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("launch_ms__isnull", True),
                        models.Q(("launch_ms__gt", float("-inf")), ("launch_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("peak_force_n__isnull", True),
                        models.Q(("peak_force_n__gt", float("-inf")), ("peak_force_n__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("peak_force_n_sd__isnull", True),
                        models.Q(("peak_force_n_sd__gt", float("-inf")), ("peak_force_n_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("impulse_n_s__isnull", True),
                        models.Q(("impulse_n_s__gt", float("-inf")), ("impulse_n_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("impulse_n_s_sd__isnull", True),
                        models.Q(("impulse_n_s_sd__gt", float("-inf")), ("impulse_n_s_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("contact_ms__isnull", True),
                        models.Q(("contact_ms__gt", float("-inf")), ("contact_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("contact_ms_sd__isnull", True),
                        models.Q(("contact_ms_sd__gt", float("-inf")), ("contact_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("rise_ms__isnull", True),
                        models.Q(("rise_ms__gt", float("-inf")), ("rise_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("rise_ms_sd__isnull", True),
                        models.Q(("rise_ms_sd__gt", float("-inf")), ("rise_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("push_index__isnull", True),
                        models.Q(("push_index__gt", float("-inf")), ("push_index__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("push_index_sd__isnull", True),
                        models.Q(("push_index_sd__gt", float("-inf")), ("push_index_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("hit_below_top_m__isnull", True),
                        models.Q(("hit_below_top_m__gt", float("-inf")), ("hit_below_top_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("hit_below_top_m_sd__isnull", True),
                        models.Q(("hit_below_top_m_sd__gt", float("-inf")), ("hit_below_top_m_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("off_centre_m__isnull", True),
                        models.Q(("off_centre_m__gt", float("-inf")), ("off_centre_m__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("off_centre_m_sd__isnull", True),
                        models.Q(("off_centre_m_sd__gt", float("-inf")), ("off_centre_m_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("direction_deg__isnull", True),
                        models.Q(("direction_deg__gt", float("-inf")), ("direction_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("direction_deg_sd__isnull", True),
                        models.Q(("direction_deg_sd__gt", float("-inf")), ("direction_deg_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("bag_energy_j__isnull", True),
                        models.Q(("bag_energy_j__gt", float("-inf")), ("bag_energy_j__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("bag_energy_j_sd__isnull", True),
                        models.Q(("bag_energy_j_sd__gt", float("-inf")), ("bag_energy_j_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("gap_ms__isnull", True),
                        models.Q(("gap_ms__gt", float("-inf")), ("gap_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("gap_ms_sd__isnull", True),
                        models.Q(("gap_ms_sd__gt", float("-inf")), ("gap_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("peak_speed_m_s__isnull", True),
                        models.Q(("peak_speed_m_s__gt", float("-inf")), ("peak_speed_m_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("peak_speed_m_s_sd__isnull", True),
                        models.Q(("peak_speed_m_s_sd__gt", float("-inf")), ("peak_speed_m_s_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("contact_speed_m_s__isnull", True),
                        models.Q(("contact_speed_m_s__gt", float("-inf")), ("contact_speed_m_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("contact_speed_m_s_sd__isnull", True),
                        models.Q(
                            ("contact_speed_m_s_sd__gt", float("-inf")), ("contact_speed_m_s_sd__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("speed_held_pct__isnull", True),
                        models.Q(("speed_held_pct__gt", float("-inf")), ("speed_held_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("speed_held_pct_sd__isnull", True),
                        models.Q(("speed_held_pct_sd__gt", float("-inf")), ("speed_held_pct_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("hand_before_ms__isnull", True),
                        models.Q(("hand_before_ms__gt", float("-inf")), ("hand_before_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("hand_before_ms_sd__isnull", True),
                        models.Q(("hand_before_ms_sd__gt", float("-inf")), ("hand_before_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("flight_ms__isnull", True),
                        models.Q(("flight_ms__gt", float("-inf")), ("flight_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("flight_ms_sd__isnull", True),
                        models.Q(("flight_ms_sd__gt", float("-inf")), ("flight_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("path_ratio__isnull", True),
                        models.Q(("path_ratio__gt", float("-inf")), ("path_ratio__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("path_ratio_sd__isnull", True),
                        models.Q(("path_ratio_sd__gt", float("-inf")), ("path_ratio_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pullback_mm__isnull", True),
                        models.Q(("pullback_mm__gt", float("-inf")), ("pullback_mm__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pullback_mm_sd__isnull", True),
                        models.Q(("pullback_mm_sd__gt", float("-inf")), ("pullback_mm_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("drop_mm__isnull", True),
                        models.Q(("drop_mm__gt", float("-inf")), ("drop_mm__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("drop_mm_sd__isnull", True),
                        models.Q(("drop_mm_sd__gt", float("-inf")), ("drop_mm_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("tell_ms__isnull", True),
                        models.Q(("tell_ms__gt", float("-inf")), ("tell_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("tell_ms_sd__isnull", True),
                        models.Q(("tell_ms_sd__gt", float("-inf")), ("tell_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("return_ms__isnull", True),
                        models.Q(("return_ms__gt", float("-inf")), ("return_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("return_ms_sd__isnull", True),
                        models.Q(("return_ms_sd__gt", float("-inf")), ("return_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("return_drop_mm__isnull", True),
                        models.Q(("return_drop_mm__gt", float("-inf")), ("return_drop_mm__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("return_drop_mm_sd__isnull", True),
                        models.Q(("return_drop_mm_sd__gt", float("-inf")), ("return_drop_mm_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turnover_deg__isnull", True),
                        models.Q(("turnover_deg__gt", float("-inf")), ("turnover_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turnover_deg_sd__isnull", True),
                        models.Q(("turnover_deg_sd__gt", float("-inf")), ("turnover_deg_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turnover_late_pct__isnull", True),
                        models.Q(("turnover_late_pct__gt", float("-inf")), ("turnover_late_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turnover_late_pct_sd__isnull", True),
                        models.Q(
                            ("turnover_late_pct_sd__gt", float("-inf")), ("turnover_late_pct_sd__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("effective_mass_kg__isnull", True),
                        models.Q(("effective_mass_kg__gt", float("-inf")), ("effective_mass_kg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("effective_mass_kg_sd__isnull", True),
                        models.Q(
                            ("effective_mass_kg_sd__gt", float("-inf")), ("effective_mass_kg_sd__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("effective_mass_pct__isnull", True),
                        models.Q(("effective_mass_pct__gt", float("-inf")), ("effective_mass_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("effective_mass_pct_sd__isnull", True),
                        models.Q(
                            ("effective_mass_pct_sd__gt", float("-inf")), ("effective_mass_pct_sd__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pelvis_peak_deg_s__isnull", True),
                        models.Q(("pelvis_peak_deg_s__gt", float("-inf")), ("pelvis_peak_deg_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pelvis_peak_deg_s_sd__isnull", True),
                        models.Q(
                            ("pelvis_peak_deg_s_sd__gt", float("-inf")), ("pelvis_peak_deg_s_sd__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("torso_peak_deg_s__isnull", True),
                        models.Q(("torso_peak_deg_s__gt", float("-inf")), ("torso_peak_deg_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("torso_peak_deg_s_sd__isnull", True),
                        models.Q(("torso_peak_deg_s_sd__gt", float("-inf")), ("torso_peak_deg_s_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pelvis_before_ms__isnull", True),
                        models.Q(("pelvis_before_ms__gt", float("-inf")), ("pelvis_before_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pelvis_before_ms_sd__isnull", True),
                        models.Q(("pelvis_before_ms_sd__gt", float("-inf")), ("pelvis_before_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("torso_before_ms__isnull", True),
                        models.Q(("torso_before_ms__gt", float("-inf")), ("torso_before_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("torso_before_ms_sd__isnull", True),
                        models.Q(("torso_before_ms_sd__gt", float("-inf")), ("torso_before_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("separation_deg__isnull", True),
                        models.Q(("separation_deg__gt", float("-inf")), ("separation_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("separation_deg_sd__isnull", True),
                        models.Q(("separation_deg_sd__gt", float("-inf")), ("separation_deg_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turn_deg__isnull", True),
                        models.Q(("turn_deg__gt", float("-inf")), ("turn_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turn_deg_sd__isnull", True),
                        models.Q(("turn_deg_sd__gt", float("-inf")), ("turn_deg_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turn_done_pct__isnull", True),
                        models.Q(("turn_done_pct__gt", float("-inf")), ("turn_done_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("turn_done_pct_sd__isnull", True),
                        models.Q(("turn_done_pct_sd__gt", float("-inf")), ("turn_done_pct_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lean_deg__isnull", True),
                        models.Q(("lean_deg__gt", float("-inf")), ("lean_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lean_deg_sd__isnull", True),
                        models.Q(("lean_deg_sd__gt", float("-inf")), ("lean_deg_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("hip_tilt_deg__isnull", True),
                        models.Q(("hip_tilt_deg__gt", float("-inf")), ("hip_tilt_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("hip_tilt_deg_sd__isnull", True),
                        models.Q(("hip_tilt_deg_sd__gt", float("-inf")), ("hip_tilt_deg_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("shoulder_tilt_deg__isnull", True),
                        models.Q(("shoulder_tilt_deg__gt", float("-inf")), ("shoulder_tilt_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("shoulder_tilt_deg_sd__isnull", True),
                        models.Q(
                            ("shoulder_tilt_deg_sd__gt", float("-inf")), ("shoulder_tilt_deg_sd__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pelvis_rise_mm__isnull", True),
                        models.Q(("pelvis_rise_mm__gt", float("-inf")), ("pelvis_rise_mm__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pelvis_rise_mm_sd__isnull", True),
                        models.Q(("pelvis_rise_mm_sd__gt", float("-inf")), ("pelvis_rise_mm_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lead_load_start_pct__isnull", True),
                        models.Q(("lead_load_start_pct__gt", float("-inf")), ("lead_load_start_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lead_load_start_pct_sd__isnull", True),
                        models.Q(
                            ("lead_load_start_pct_sd__gt", float("-inf")), ("lead_load_start_pct_sd__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lead_load_contact_pct__isnull", True),
                        models.Q(
                            ("lead_load_contact_pct__gt", float("-inf")), ("lead_load_contact_pct__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lead_load_contact_pct_sd__isnull", True),
                        models.Q(
                            ("lead_load_contact_pct_sd__gt", float("-inf")),
                            ("lead_load_contact_pct_sd__lt", float("inf")),
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("load_shift_pct__isnull", True),
                        models.Q(("load_shift_pct__gt", float("-inf")), ("load_shift_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("load_shift_pct_sd__isnull", True),
                        models.Q(("load_shift_pct_sd__gt", float("-inf")), ("load_shift_pct_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lead_heel_pct__isnull", True),
                        models.Q(("lead_heel_pct__gt", float("-inf")), ("lead_heel_pct__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("lead_heel_pct_sd__isnull", True),
                        models.Q(("lead_heel_pct_sd__gt", float("-inf")), ("lead_heel_pct_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("step_before_ms__isnull", True),
                        models.Q(("step_before_ms__gt", float("-inf")), ("step_before_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("step_before_ms_sd__isnull", True),
                        models.Q(("step_before_ms_sd__gt", float("-inf")), ("step_before_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("push_bw_s__isnull", True),
                        models.Q(("push_bw_s__gt", float("-inf")), ("push_bw_s__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("push_bw_s_sd__isnull", True),
                        models.Q(("push_bw_s_sd__gt", float("-inf")), ("push_bw_s_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("settle_ms__isnull", True),
                        models.Q(("settle_ms__gt", float("-inf")), ("settle_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("settle_ms_sd__isnull", True),
                        models.Q(("settle_ms_sd__gt", float("-inf")), ("settle_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pivot_deg__isnull", True),
                        models.Q(("pivot_deg__gt", float("-inf")), ("pivot_deg__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("pivot_deg_sd__isnull", True),
                        models.Q(("pivot_deg_sd__gt", float("-inf")), ("pivot_deg_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("reaction_ms__isnull", True),
                        models.Q(("reaction_ms__gt", float("-inf")), ("reaction_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("reaction_ms_sd__isnull", True),
                        models.Q(("reaction_ms_sd__gt", float("-inf")), ("reaction_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("response_ms__isnull", True),
                        models.Q(("response_ms__gt", float("-inf")), ("response_ms__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("response_ms_sd__isnull", True),
                        models.Q(("response_ms_sd__gt", float("-inf")), ("response_ms_sd__lt", float("inf"))),
                        _connector="OR",
                    ),
                    models.Q(
                        ("impulse_estimated_n_s__isnull", True),
                        models.Q(
                            ("impulse_estimated_n_s__gt", float("-inf")), ("impulse_estimated_n_s__lt", float("inf"))
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("impulse_estimated_n_s_sd__isnull", True),
                        models.Q(
                            ("impulse_estimated_n_s_sd__gt", float("-inf")),
                            ("impulse_estimated_n_s_sd__lt", float("inf")),
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("effective_mass_estimated_kg__isnull", True),
                        models.Q(
                            ("effective_mass_estimated_kg__gt", float("-inf")),
                            ("effective_mass_estimated_kg__lt", float("inf")),
                        ),
                        _connector="OR",
                    ),
                    models.Q(
                        ("effective_mass_estimated_kg_sd__isnull", True),
                        models.Q(
                            ("effective_mass_estimated_kg_sd__gt", float("-inf")),
                            ("effective_mass_estimated_kg_sd__lt", float("inf")),
                        ),
                        _connector="OR",
                    ),
                ),
                name="review_strike_finite",
            ),
        ),
    ]
