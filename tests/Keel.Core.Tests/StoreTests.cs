using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Store;

namespace Keel.Core.Tests;

/// <summary>Entries, devices and settings, read and written as the format says.</summary>
public sealed class StoreTests
{
    private static readonly Partition Third = new(
        3,
        new Blocks.ByteRange(65 * 1024 * 1024, 1024),
        7,
        default,
        default,
        Active: false,
        Logical: false,
        "");

    [Fact]
    public void A_partition_of_an_mbr_disk_is_laid_out_as_documented()
    {
        var raw = BootDevice.Of(DiskIdentity.OfMbr(0xB4AC0042), Third).Raw;
        Convert.ToHexStringLower(raw).ShouldBe(
            "00000000000000000000000000000000" + "06000000" + "00000000" + "48000000" + "00000000"
            + "00001004000000000000000000000000"
                + "00000000"
                + "01000000"
                + "4200acb4000000000000000000000000"
                + "00000000000000000000000000000000");
    }

    [Fact]
    public void A_partition_of_a_gpt_disk_comes_back()
    {
        var disk = DiskIdentity.OfGpt(Guid.NewGuid());
        var partition = Third with { GptType = PartitionTypes.GptBasicData, Id = Guid.NewGuid() };
        var device = BootDevice.Read(BootDevice.Of(disk, partition).Raw);
        device.Names(disk, partition).ShouldBeTrue();
        device.Names(DiskIdentity.OfGpt(Guid.NewGuid()), partition).ShouldBeFalse();
        BootDevice.StartedFrom().IsStartedFrom.ShouldBeTrue();
    }

    /// <summary>Found by a campaign of changed disks: the name of an element's key had lost a digit.</summary>
    [Theory]
    [InlineData("2600000")]
    [InlineData(" 26000000")]
    [InlineData("26000000")]
    public void A_key_that_holds_no_value_under_its_number_is_no_element(string name)
    {
        var store = TwoEntries();
        var entry = store.WindowsEntries[0];
        var known = entry.Elements.Count();
        entry.Node.Child("Elements")!.Children.Add(new Hives.HiveNode(name));
        entry.Elements.Count().ShouldBe(known);
        entry.Elements.ShouldAllBe(element => entry.Value(element) != null);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(7)]
    [InlineData(0x30)]
    [InlineData(0x57)]
    public void A_device_of_any_length_is_only_looked_at(int length)
    {
        var device = BootDevice.Read(new byte[length]);
        device.IsPartition.ShouldBeFalse();
        device.ToString().ShouldNotBeEmpty();
    }

    [Theory]
    [InlineData("memory-ceiling", "0x1000", "4096")]
    [InlineData("startup-choices", "on", "yes")]
    [InlineData("safe-start", "network", "network")]
    [InlineData("safe-start", "1", "network")]
    [InlineData("title", "North Quay", "North Quay")]
    [InlineData("bad-memory-pages", "17, 0x20", "17, 32")]
    [InlineData("resume-entry", "manager", "Boot")]
    [InlineData("rescue-entries", "manager,Two", "Boot, Two")]
    [InlineData("program-volume", "started-from", "started-from")]
    public void A_setting_is_shown_as_it_was_typed(string name, string typed, string shown)
    {
        var store = TwoEntries();
        var text = new SettingText(store, new UnknownDevices());
        var entry = EntryPicker.Pick(store, "Two");
        text.Set(entry, name, typed);
        text.Show(entry, Settings.Named(name, entry.Type)!.Element).ShouldBe(shown);
        var reread = BootStore.Read(store.ToBytes());
        new SettingText(reread, new UnknownDevices())
            .Show(reread.Entry(entry.Id)!, Settings.Named(name, entry.Type)!.Element)
            .ShouldBe(shown);
        text.Remove(entry, name);
        entry.Value(Settings.Named(name, entry.Type)!.Element).ShouldBeNull();
    }

    [Theory]
    [InlineData("1", "Two")]
    [InlineData("manager", "Boot")]
    [InlineData("preferred", "Two")]
    [InlineData("two", "Two")]
    [InlineData("{00000002", "Two")]
    [InlineData("9dea862c", "Boot")]
    public void An_entry_is_picked_the_short_way(string words, string title) =>
        EntryPicker.Pick(TwoEntries(), words).Title.ShouldBe(title);

    [Theory]
    [InlineData("o")]
    [InlineData("three")]
    [InlineData("99")]
    public void An_unclear_word_names_the_candidates(string words) =>
        Should.Throw<WrongUsageException>(() => EntryPicker.Pick(TwoEntries(), words)).Why.ShouldContain("Two");

    [Fact]
    public void The_names_of_settings_are_unambiguous_where_they_are_used()
    {
        foreach (var type in (EntryType[])[
            EntryType.Manager,
            EntryType.Windows,
            EntryType.Resume,
            EntryType.DeviceOptions,
            EntryType.MemoryTest
        ])
        {
            var here =
                Settings.All
                    .Where(setting => setting.Scope == SettingScope.Any || setting.Scope == Settings.ScopeOf(type))
                    .ToList();
            here.Select(setting => setting.Name).ShouldBeUnique();
            here.Select(setting => setting.Element).ShouldBeUnique();
        }
    }

    [Fact]
    public void Dropping_takes_references_along_and_keeps_the_last_way_to_start()
    {
        var store = TwoEntries();
        var entry = EntryPicker.Pick(store, "Two");
        Should.Throw<RefusedException>(() => StoreEditing.Drop(store, entry, evenLast: false));
        var copy = StoreEditing.AddLike(store, entry, Guid.NewGuid(), "Copy");
        StoreEditing.Drop(store, entry, evenLast: false);
        store.Preferred.ShouldBe(copy.Id);
        store.Manager!.References(Element.MenuOrder).ShouldBe([copy.Id]);
    }

    [Fact]
    public void Only_what_can_be_started_is_preferred_listed_or_started_once()
    {
        var store = TwoEntries();
        var settings = store.Add(new EntryId(Guid.NewGuid()), EntryType.EverySettings);
        var manager = store.Manager!;
        var text = new SettingText(store, new UnknownDevices());
        Should.Throw<RefusedException>(() => StoreEditing.Prefer(store, settings));
        Should.Throw<RefusedException>(() => StoreEditing.Order(store, [settings]));
        Should.Throw<RefusedException>(() => StoreEditing.Once(store, manager, safe: null));
        foreach (var setting in (string[])["preferred", "menu-order", "once-only"])
            Should.Throw<RefusedException>(() => text.Set(manager, setting, settings.Id.ToString()));

        var entry = EntryPicker.Pick(store, "Two");
        StoreEditing.Order(store, [entry, entry]);
        manager.References(Element.MenuOrder).ShouldBe([entry.Id]);
    }

    private static BootStore TwoEntries()
    {
        var store = BootStore.Empty(DateTimeOffset.UnixEpoch);
        store.Add(EntryId.Manager, EntryType.Manager).Set(Element.Title, "Boot");
        var id = new EntryId(new Guid("00000002-0000-0000-0000-000000000000"));
        store.Add(id, EntryType.Windows).Set(Element.Title, "Two");
        StoreEditing.Prefer(store, store.Entry(id)!);
        return store;
    }
}
