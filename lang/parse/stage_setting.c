/* The settings of a stage, as its row of words lists them: which one comes next, and what is wrong with a word. */
#include "parse.h"

#include <string.h>

/* The word of another setting stands behind a comma. */
bool stage_setting_follows(const cursor *p, const node *n)
{
    bool is = false;
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        is |= n->stage->setting[i].word && token_is_word(cursor_behind(p), n->stage->setting[i].word);
    }
    return token_is_mark(cursor_now(p), MARK_COMMA) && is;
}

static const char *setting_word(void *self, uint32_t i)
{
    const stage_word *stage = self;
    return stage->setting[i].word ? stage->setting[i].word : "";
}

/* A word where something else stands or nothing: one of the stage's in the wrong place, or like one of them. */
void stage_refuse_word(cursor *p, const node *n, const token *word)
{
    uint32_t count = 0;
    for (; word->kind == TOKEN_WORD && count < STAGE_SETTINGS_MAX && n->stage->setting[count].name; count++) {
        if (strcmp(setting_word((void *)n->stage, count), word->text) == 0) {
            cursor_fail(p, word->at, arena_print(p->tree->arena, "write '%s'", n->stage->form),
                        n->setting[count].given ? "'%s' is said twice" : "'%s' is out of place", word->text);
        }
    }
    const char *meant =
        count ? report_suggest(p->tree->report, word->text, setting_word, (void *)n->stage, count) : NULL;
    if (meant) {
        cursor_fail(p, word->at, meant, "'%s' has no '%s'", n->stage->word, word->text);
    }
}

bool stage_setting_is_written(const stage_setting *is)
{
    static const bool unwritten[] = {[SETTING_SCALE_IN] = true,
                                     [SETTING_SCALE_OUT] = true,
                                     [SETTING_FIXED] = true,
                                     [SETTING_FIXED_FLOAT] = true,
                                     [SETTING_IS_EVENT] = true};
    return is->name && !(is->shape < sizeof unwritten && unwritten[is->shape]);
}

void stage_setting_missing(cursor *p, const node *n, const stage_setting *is)
{
    cursor_fail(p, n->at, arena_print(p->tree->arena, "write '%s'", n->stage->form), "'%s' needs its %s",
                n->stage->word, is->name);
}

/* A unit written behind the high end holds for a low end without one, which then ends there, too. */
void stage_range_unit(node *low, const node *high)
{
    if (low->kind == NODE_NUMBER && unit_is_bare(low->type.unit) && high->kind == NODE_NUMBER) {
        low->type.unit = high->type.unit;
        low->at.end = high->at.end > high->text_at.end ? high->at.end : low->at.end;
    }
}

/* The setting whose word comes next, perhaps behind a comma; STAGE_SETTINGS_MAX for none. */
uint32_t stage_setting_next(const cursor *p, const node *n)
{
    const token *t = token_is_mark(cursor_now(p), MARK_COMMA) ? cursor_behind(p) : cursor_now(p);
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        if (!n->setting[i].given && n->stage->setting[i].word && token_is_word(t, n->stage->setting[i].word)) {
            return i;
        }
    }
    return STAGE_SETTINGS_MAX;
}
