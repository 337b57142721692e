/* The documents show the tool's own output: each line "$ rigpulse ..." in them is run, page by page in one folder,
 * each line "$ grep ..." over the sources, and what stands below it up to the next one has to come out. A line "..."
 * stands for any lines. RIGPULSE_REWRITE=1 writes the outputs anew, but for those with such a line. */
#include "support.h"

#include <stdlib.h>
#include <string.h>

#define PROMPT "$ rigpulse "
#define SEARCH "$ grep " /* in the sources */
#define FENCE  "```"

static char *make_quay(void)
{
    char *folder = make_folder();
    g_autofree char *copy = g_strdup_printf("cp -r '%s/examples' '%s/examples' && cp '%s'/examples/*.rig '%s'",
                                            RIGPULSE_SOURCE, folder, RIGPULSE_SOURCE, folder);
    assert_int_equal(system(copy), 0);
    return folder;
}

static char *run_line(const char *folder, const char *line)
{
    const bool search = g_str_has_prefix(line, SEARCH);
    g_autofree char *command =
        g_strconcat(search ? "" : RIGPULSE_TOOL " ", line + (search ? strlen("$ ") : strlen(PROMPT)), " 2>&1", NULL);
    const char *argv[] = {"sh", "-c", command, NULL};
    char *out = NULL;
    assert_true(g_spawn_sync(search ? RIGPULSE_SOURCE : folder, (char **)argv, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL,
                             &out, NULL, NULL, NULL));
    return out;
}

/* The lines that stand in the page, and the lines that came. */
static bool is_so(char **stands, char **came)
{
    while (*stands) {
        if (strcmp(*stands, "...") == 0) {
            for (stands++; *came && (!*stands || strcmp(*came, *stands) != 0); came++) {
            }
        } else if (!*came || strcmp(g_strchomp(*stands++), g_strchomp(*came++)) != 0) {
            return false;
        }
    }
    return *came == NULL;
}

static char **lines_of(char *text)
{
    return g_strsplit(g_strchomp(text), "\n", -1);
}

typedef struct page {
    char *name, *folder;
    GString *anew;
    guint commands, wrong;
} page;

/* One command and its output; returns the line behind. */
static char **check_command(page *p, char **line)
{
    GString *stands = g_string_new(NULL);
    const char *command = *line++;
    g_autofree char *came = run_line(p->folder, command);
    bool open = false;
    for (; *line && !g_str_has_prefix(*line, FENCE) && !g_str_has_prefix(*line, "$ "); line++) {
        open |= strcmp(*line, "...") == 0;
        g_string_append_printf(stands, "%s\n", *line);
    }
    g_autofree char *kept = g_strdup(stands->str);
    g_auto(GStrv) a = lines_of(stands->str);
    g_auto(GStrv) b = lines_of(came);
    p->commands++;
    if (!is_so(a, b)) {
        p->wrong++;
        print_error("%s: %s\n--- stands there:\n%s--- comes out:\n%s\n", p->name, command, kept, came);
    }
    g_string_append_printf(p->anew, "%s\n%s", command, open ? kept : "");
    for (char **each = b; !open && *each; each++) {
        g_string_append_printf(p->anew, "%s\n", g_strchomp(*each));
    }
    g_string_free(stands, TRUE);
    return line;
}

static void check_page(const char *name, guint *commands, guint *wrong)
{
    g_autofree char *text = get_file(RIGPULSE_SOURCE, name);
    page p = {.name = (char *)name, .folder = make_quay(), .anew = g_string_new(NULL)};
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (char **line = lines; *line;) {
        if (g_str_has_prefix(*line, PROMPT) || g_str_has_prefix(*line, SEARCH)) {
            line = check_command(&p, line);
        } else {
            g_string_append_printf(p.anew, line[1] ? "%s\n" : "%s", *line);
            line++;
        }
    }
    if (g_getenv("RIGPULSE_REWRITE") && p.wrong > 0) {
        put_file(RIGPULSE_SOURCE, name, p.anew->str, (gssize)p.anew->len);
    }
    *commands += p.commands;
    *wrong += p.wrong;
    g_string_free(p.anew, TRUE);
    remove_folder(p.folder);
}

static void test_documents(void **unused)
{
    (void)unused;
    guint commands = 0, wrong = 0;
    const char *only = g_getenv("RIGPULSE_PAGE"); /* one of docs/ alone */
    g_autoptr(GPtrArray) pages = list_files(RIGPULSE_SOURCE "/docs", only ? only : ".md");
    check_page("README.md", &commands, &wrong);
    check_page("CONTRIBUTING.md", &commands, &wrong);
    for (guint i = 0; i < pages->len; i++) {
        g_autofree char *name = g_build_filename("docs", pages->pdata[i], NULL);
        check_page(name, &commands, &wrong);
    }
    print_message("%u commands of the documents were run\n", commands);
    assert_true(only || commands >= 24);
    assert_int_equal(wrong, 0);
}

/* docs/words.md has a section for each group that `rigpulse words` names. */
static void test_groups_of_words(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *words = get_file(RIGPULSE_SOURCE "/docs", "words.md");
    called c = call_tool(folder, "words");
    g_auto(GStrv) line = g_strsplit(c.out, "\n", -1);
    guint groups = 0;
    for (char **each = line; **each; each++) { /* up to the empty line */
        if (**each != ' ') {
            g_autofree char *section = g_strdup_printf("\n$ rigpulse words %s\n", *each);
            assert_says(words, section);
            groups++;
        }
    }
    assert_true(groups >= 14);
    call_done(&c);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_documents), cmocka_unit_test(test_groups_of_words)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
