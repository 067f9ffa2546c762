"""The table of rights: what every endpoint needs of whoever asks, by the endpoints' names."""

from collections.abc import Mapping
from typing import Final

from pale_harbor.work.people.rights import Right

# LOOK, CHANGE and OWN are about the collection that the address names, or whose import or reading it is about.
TABLE: Final[Mapping[Right, tuple[str, ...]]] = {
    Right.ANYBODY: (
        *("alive", "health"),
        *("me", "sign_in", "sign_out", "invited", "take_invitation"),
        *("sign_in_elsewhere", "back_from_elsewhere"),
        # By the link itself, which nobody can guess and which reaches nothing but its task.
        *("judge", "judge_query", "judge_said", "judge_page", "judge_picture"),
    ),
    Right.SIGNED_IN: (
        *("measures", "stages", "collections", "events"),
        *("own_tasks", "own_visits", "make_own_key", "end_own_visit", "change_own_password"),
    ),
    Right.LOOK: (
        *("collection", "profile", "record", "records", "records_called_so", "picture", "export", "samples"),
        *("record_page", "reading_quality_of"),
        *("earlier", "readings", "list_deleted", "try_passages", "imports"),
        *("import_with_id", "list_rejected", "rejected_file"),
        *("rankers", "ranker", "ranker_differences", "ranker_stages", "drafts"),
        *("search", "passages_of_list", "letters", "why", "why_a_record_is_missing", "near_words", "lists"),
        *("completions", "suggestions", "suggestions_costs", "past_queries", "correction", "corrections_measured"),
        *("meet", "consequences", "consequences_progress", "cancel_reckoning"),
        *("saved_chains", "word_lists", "word_list", "word_list_file"),
        *("spaces", "space", "cost", "nearest_records", "map_of_space"),
        *("judged_sets", "judged_set", "queries_of_set", "file_of_set", "expectations", "frozen_runs"),
        *("measure_on_set", "missed_on_set", "measure_frozen_run", "sides_of_blend", "overview_of_rankers"),
        *("compare", "turns", "letters_of_set", "quality", "moved", "page_for_owner", "outside_rankers"),
        *("judging_tasks", "judging_standing", "diary"),
        *("knobs_to_tune", "all_tunings", "one_tuning", "tuning_as_page", "all_ledgers", "all_remedies"),
        *("first_tunings", "copy"),
        *("published", "publishing_checked", "delivery_keys", "asked_by_visitors", "rewritten_by_visitors"),
        *("grades_by_clicks", "candidate_standing"),
        *("connections", "following", "unfit_rows_of_source", "all_growths"),
    ),
    Right.CHANGE: (
        *("put", "delete", "restore", "restore_many", "change_field", "change_display", "correct_word_of_page"),
        *("decide_import", "undo", "cancel_import", "resume_import", "mend"),
        *("put_ranker", "put_ranker_note", "post_draft", "put_draft", "delete_draft"),
        *("put_past_queries", "delete_past_queries", "put_chain", "put_word_list"),
        *("make_space", "drop_space", "fill_space", "cancel_filling", "bring_vectors"),
        *("make_judged_set", "drop_judged_set", "change_rules", "add_query", "put_query", "drop_query", "add_list"),
        *("put_files", "give_grade", "take_complaint", "add_expectation", "end_expectation", "write_decision"),
        *("make_task", "close_task", "drop_task", "new_link", "draw_link_back", "settle_grade", "confirm_stale"),
        *("put_outside_service", "drop_outside_ranker", "bring_run_file", "ask_outside", "cancel_asking"),
        *("begin_tuning", "stop_tuning", "forget_tuning", "begin_ledger_of", "cancel_ledger"),
        *("sample_of_asked", "load_asked_log", "offer_asked", "confirm_clicks"),
        *("begin_remedies_of", "cancel_remedies", "begin_tuning_of_first_ranker"),
        # What is asked of another database is asked in the name of whoever kept the connection.
        *("put_connection", "drop_connection", "try_connection", "catalogue_of_connection", "draft_query"),
        *("look_at_query", "put_following", "pause_following", "go_on_following", "compare_with_source"),
        *("agree_to_following", "end_following", "begin_growth_of", "cancel_growth"),
    ),
    Right.OWN: (
        *("rename", "drop", "lock_queries"),
        *("members", "set_member", "drop_member", "invite_member", "draw_member_back"),
        *("changes_of_collection", "changes_of_collection_file"),
        *("publish_version", "publish_former", "put_candidate", "drop_candidate", "put_delivery_settings"),
        *("make_visitor_key", "make_program_key", "put_visitor_key", "revoke_delivery_key"),
    ),
    # A collection that is there already needs CHANGE as well: the endpoint sees to it.
    Right.BRING: ("upload", "preview_source", "read_thesaurus", "start_import"),
    Right.MAKE: ("make",),
    Right.KEEP: (
        *("memory", "metrics", "command", "people", "add_person", "change_person", "forget_person", "set_password_of"),
        *("invite_keeper", "draw_keeper_back", "changes_everywhere", "changes_everywhere_file"),
    ),
}

_RIGHT_OF: Final = {name: right for right, names in TABLE.items() for name in names}


def right_needed(endpoint: str) -> Right:
    """What an endpoint needs. Raises KeyError for one that the table does not have: it is not served, then."""
    return _RIGHT_OF[endpoint]
